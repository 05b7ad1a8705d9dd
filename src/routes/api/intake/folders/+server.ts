import { z } from 'zod';
import { endpoint } from '#server/edge/edge';
import { lookInto } from '#server/intake/sources/sources';

export const GET = endpoint(
  { query: z.object({ path: z.string().max(4000).optional() }) },
  ({ locals }, { path }) => lookInto(locals.house, path ?? null),
);
