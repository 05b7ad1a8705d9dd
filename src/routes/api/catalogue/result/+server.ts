import { z } from 'zod';
import { result } from '#server/catalogue/reading';
import { actorOf, checked, endpoint, queryOf } from '#server/edge/edge';
import { resolve } from '#server/query/names';

/** Tiles that are asked for with it. */
const MOST = 500;
const stretch = z.object({
  from: z.coerce.number().int().min(0).default(0),
  to: z.coerce.number().int().min(0).default(0),
});

/** What a window shows of a result, in one answer: counts, where it lies, a stretch of its tiles. */
export const GET = endpoint(async (event) => {
  const { from, to } = checked(stretch, Object.fromEntries(event.url.searchParams));
  const { house } = event.locals;
  const { query } = await resolve(house.db, queryOf(event.url));
  return result(house, actorOf(event), query, from, Math.max(from, Math.min(to, from + MOST)));
});
