import { z } from 'zod';
import { tilesOf } from '#server/catalogue/find';
import { tiles } from '#server/catalogue/reading';
import { actorOf, endpoint, queryAsked, wholeAsked } from '#server/edge/edge';
import { seenIds } from '#server/sight/seen';

/** Items that are asked for by their ids. */
const MOST_NAMED = 150;
const wishSchema = z.object({
  q: queryAsked,
  offset: wholeAsked.min(0).default(0),
  limit: wholeAsked.min(1).max(500).default(100),
  ids: z
    .string()
    .transform((text) => text.split(','))
    .pipe(z.array(z.uuid()).max(MOST_NAMED))
    .optional(),
});

/** A stretch of a result, or with `ids` those of them that may be seen. */
export const GET = endpoint({ query: wishSchema }, async (event, { q, ids, offset, limit }) => {
  const { house } = event.locals;
  const viewer = actorOf(event);
  if (!ids) return tiles(house, viewer, q, offset, limit);
  return tilesOf(house.db, viewer, await seenIds(house.db, viewer, ids));
});
