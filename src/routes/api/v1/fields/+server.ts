import { ALL_FIELDS } from '#core/fields/registry';
import { TYPES } from '#core/fields/types';
import { endpoint } from '#server/edge/edge';

export const GET = endpoint(async () =>
  ALL_FIELDS.map(({ key, label, type, part, uses, many, unit, values }) => ({
    key,
    label,
    type,
    part,
    uses,
    many: many === true,
    tests: TYPES[type].tests,
    unit: unit ?? null,
    values: values ?? null,
  })),
);
