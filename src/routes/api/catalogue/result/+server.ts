import { z } from 'zod';
import { result } from '#server/catalogue/reading';
import { actorOf, endpoint, queryAsked, wholeAsked } from '#server/edge/edge';
import { resolve } from '#server/query/names';

/** Tiles that are asked for with it. */
const MOST = 500;
const stretch = z.object({
  q: queryAsked,
  from: wholeAsked.min(0).default(0),
  to: wholeAsked.min(0).default(0),
});

/** What a window shows of a result, in one answer: counts, where it lies, a stretch of its tiles. */
export const GET = endpoint({ query: stretch }, async (event, { q, from, to }) => {
  const { house } = event.locals;
  const { query } = await resolve(house.db, q);
  return result(house, actorOf(event), query, from, Math.max(from, Math.min(to, from + MOST)));
});
