import { z } from 'zod';
import { LONGEST_QUERY } from '../query/tree';
import { changeSchema } from '../records/schemas';

/** What the HTTP API takes and gives: the checks of its doors and, as JSON Schema, their description. */
export const API_SCOPES = ['read', 'describe'] as const;
export type ApiScope = (typeof API_SCOPES)[number];

const q = z
  .string()
  .max(LONGEST_QUERY)
  .default('')
  .describe('A query in its compact form; empty asks for everything.');
const fields = z
  .string()
  .max(2000)
  .default('number,name,title')
  .describe('Keys of fields, parted by commas; /api/v1/fields lists them.');

export const itemsQuery = z.object({
  q,
  fields,
  limit: z.coerce.number().int().min(1).max(1000).default(100),
  cursor: z
    .string()
    .max(40)
    .optional()
    .describe(
      'Where the last page ended. Pages go by catalogue number, so that nothing is told twice or left out while others change things.',
    ),
});
export const facetsQuery = z.object({ q, fields });

const value = z.union([
  z.string(),
  z.number(),
  z.boolean(),
  z.null(),
  z.array(z.union([z.string(), z.number()])),
]);
const item = z.object({ id: z.uuid(), values: z.record(z.string(), value) });
export const itemsAnswer = z.object({
  total: z.number().int(),
  items: z.array(item),
  next: z
    .string()
    .nullable()
    .describe('The cursor of the next page; null where this was the last.'),
});
export const facetsAnswer = z.object({
  total: z.number().int(),
  facets: z.record(
    z.string(),
    z.object({
      lacking: z.number().int(),
      more: z.boolean(),
      values: z.array(
        z.object({
          value: z.union([z.string(), z.number()]),
          label: z.string(),
          count: z.number().int(),
        }),
      ),
    }),
  ),
});
export const fieldsAnswer = z.array(
  z.object({
    key: z.string(),
    label: z.string(),
    type: z.string(),
    part: z.string(),
    tests: z.array(z.string()),
    uses: z.array(z.string()),
    many: z.boolean(),
    unit: z.string().nullable(),
    values: z.array(z.object({ key: z.string(), label: z.string() })).nullable(),
  }),
);
export const itemAnswer = z.object({
  id: z.uuid(),
  version: z.number().int(),
  values: z.record(z.string(), value),
});
export const describeBody = z.object({
  change: changeSchema,
  version: z
    .number()
    .int()
    .optional()
    .describe('The version it was changed from; a later one is refused.'),
});
export const describeAnswer = z.object({
  changed: z.number().int(),
  operation: z.uuid().nullable(),
});
export const problemAnswer = z.object({
  type: z.string(),
  title: z.string(),
  status: z.number().int(),
});

interface Operation {
  method: 'get' | 'patch';
  path: string;
  summary: string;
  scope: ApiScope;
  query?: z.ZodObject;
  body?: z.ZodType;
  answer: z.ZodType;
}

/** Every door of the API. */
export const OPERATIONS: Operation[] = [
  {
    method: 'get',
    path: '/api/v1/items',
    summary: 'Items a query finds, a page at a time',
    scope: 'read',
    query: itemsQuery,
    answer: itemsAnswer,
  },
  {
    method: 'get',
    path: '/api/v1/items/{number}',
    summary: 'One item with every field',
    scope: 'read',
    answer: itemAnswer,
  },
  {
    method: 'patch',
    path: '/api/v1/items/{number}',
    summary: 'Describe one item',
    scope: 'describe',
    body: describeBody,
    answer: describeAnswer,
  },
  {
    method: 'get',
    path: '/api/v1/facets',
    summary: 'How many of what a query finds have which value',
    scope: 'read',
    query: facetsQuery,
    answer: facetsAnswer,
  },
  {
    method: 'get',
    path: '/api/v1/fields',
    summary: 'The registry of fields',
    scope: 'read',
    answer: fieldsAnswer,
  },
];

const schemaOf = (schema: z.ZodType, io: 'input' | 'output'): object => {
  const { $schema: _, ...plain } = z.toJSONSchema(schema, { io, unrepresentable: 'any' });
  void _;
  return plain;
};

/** The description of the API after OpenAPI 3.1. */
export function openApi(version: string): object {
  const paths: Record<string, Record<string, object>> = {};
  for (const { method, path, summary, scope, query, body, answer } of OPERATIONS) {
    const inPath = path.includes('{number}')
      ? [
          {
            name: 'number',
            in: 'path',
            required: true,
            schema: { type: 'string', examples: ['2026.014.0237'] },
          },
        ]
      : [];
    const inQuery = Object.entries(query?.shape ?? {}).map(([name, schema]) => ({
      name,
      in: 'query',
      required: false,
      schema: schemaOf(schema as z.ZodType, 'input'),
    }));
    const problem = {
      description: 'Problem details (RFC 9457)',
      content: { 'application/problem+json': { schema: schemaOf(problemAnswer, 'output') } },
    };
    (paths[path] ??= {})[method] = {
      summary,
      security: [{ token: [scope] }],
      parameters: [...inPath, ...inQuery],
      ...(body
        ? {
            requestBody: {
              required: true,
              content: { 'application/json': { schema: schemaOf(body, 'input') } },
            },
          }
        : {}),
      responses: {
        '200': {
          description: 'What was asked for',
          content: { 'application/json': { schema: schemaOf(answer, 'output') } },
        },
        default: problem,
      },
    };
  }
  return {
    openapi: '3.1.0',
    info: {
      title: 'Mindful Archive',
      version,
      description: 'Queries are those of the sentence: docs/query.md.',
    },
    paths,
    components: {
      securitySchemes: {
        token: {
          type: 'http',
          scheme: 'bearer',
          description: 'A personal token, made on one’s account page.',
        },
      },
    },
  };
}
