import { z } from 'zod';
import { tilesOf } from '#server/catalogue/find';
import { tiles } from '#server/catalogue/reading';
import { actorOf, checked, endpoint, queryOf } from '#server/edge/edge';
import { seenIds } from '#server/sight/seen';

const pageSchema = z.object({
  offset: z.coerce.number().int().min(0).default(0),
  limit: z.coerce.number().int().min(1).max(500).default(100),
});

/** Items that are asked for by their ids. */
const MOST_NAMED = 150;
const named = z.array(z.uuid()).max(MOST_NAMED);

/** A stretch of a result, or with `ids` those of them that may be seen. */
export const GET = endpoint(async (event) => {
  const { db } = event.locals.house;
  const ids = event.url.searchParams.get('ids');
  if (ids !== null)
    return tilesOf(
      db,
      actorOf(event),
      await seenIds(db, actorOf(event), checked(named, ids.split(','))),
    );
  const { offset, limit } = checked(pageSchema, Object.fromEntries(event.url.searchParams));
  return tiles(event.locals.house, actorOf(event), queryOf(event.url), offset, limit);
});
