import { z } from 'zod';
import { tiles } from '#server/catalogue/reading';
import { actorOf, checked, endpoint, queryOf } from '#server/edge/edge';
import type { RequestHandler } from './$types';

const pageSchema = z.object({
  offset: z.coerce.number().int().min(0).default(0),
  limit: z.coerce.number().int().min(1).max(500).default(100),
});

export const GET: RequestHandler = endpoint(async (event) => {
  const { offset, limit } = checked(pageSchema, Object.fromEntries(event.url.searchParams));
  return tiles(event.locals.house, actorOf(event), queryOf(event.url), offset, limit);
});
