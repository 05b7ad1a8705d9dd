import { ALL_FIELDS } from '#core/fields/registry';
import { TESTS_OF } from '#core/query/tree';
import { endpoint } from '#server/edge/edge';

export const GET = endpoint(async () =>
  ALL_FIELDS.map(({ key, label, type, part, uses, many, unit, values }) => ({
    key,
    label,
    type,
    part,
    uses,
    many: many === true,
    tests: TESTS_OF[type],
    unit: unit ?? null,
    values: values ?? null,
  })),
);
