import { z } from 'zod';
import { OPERATIONS } from '#core/api/shapes';
import { ALL_FIELDS } from '#core/fields/registry';
import { TYPES } from '#core/fields/types';
import type { PageServerLoad } from './$types';

const described = (schema: z.ZodType): string =>
  String(
    (z.toJSONSchema(schema, { io: 'input', unrepresentable: 'any' }) as { description?: string })
      .description ?? '',
  );

export const load: PageServerLoad = () => ({
  operations: OPERATIONS.map(({ method, path, summary, scope, query, body }) => ({
    method,
    path,
    summary,
    scope,
    query: Object.entries(query?.shape ?? {}).map(([name, schema]) => ({
      name,
      words: described(schema as z.ZodType),
    })),
    takesBody: body !== undefined,
  })),
  fields: ALL_FIELDS.map(({ key, label, type, part, uses, unit }) => ({
    key,
    label,
    type,
    part,
    unit: unit ?? '',
    uses: uses.join(', '),
    tests: TYPES[type].tests.join(', '),
  })),
});
