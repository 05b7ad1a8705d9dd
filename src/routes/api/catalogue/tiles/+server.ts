import { z } from 'zod';
import { parseQuery } from '#core/query/grammar';
import { findTiles } from '#server/catalogue/find';
import { checked, endpoint } from '#server/edge/edge';
import type { RequestHandler } from './$types';

const pageSchema = z.object({
  offset: z.coerce.number().int().min(0).default(0),
  limit: z.coerce.number().int().min(1).max(500).default(100),
});

export const GET: RequestHandler = endpoint(async ({ locals, url }) => {
  const { offset, limit } = checked(pageSchema, Object.fromEntries(url.searchParams));
  return findTiles(locals.house.db, parseQuery(url.searchParams.get('q') ?? ''), offset, limit);
});
