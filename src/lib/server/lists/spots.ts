import { sql, type Kysely } from 'kysely';
import { ArchiveError } from '#core/errors';
import type { SpotEntry } from '#core/lists/entries';
import type { Database } from '../db/schema';
import { newId } from '../house/ids';
import { changeLists, entryOf, refuseStale } from './journal';

type Db = Kysely<Database>;

export type ListedSpot = SpotEntry & { id: string };
/** Kept places; more are refused in words. */
const MOST_SPOTS = 2000;

/** Every kept place, by name. */
export const listedSpots = (db: Db): Promise<ListedSpot[]> =>
  db
    .selectFrom('spot')
    .selectAll()
    .orderBy(sql`lower(name)`)
    .execute();

/** Keep a place, change one, or with null take it off the list. @throws ArchiveError conflict, value-refused, not-found */
export const saveSpot = (
  db: Db,
  actorId: string | null,
  id: string | null,
  wish: SpotEntry | null,
  seen?: SpotEntry,
) => {
  const own = id ?? newId();
  return changeLists(db, actorId, async (transaction) => {
    const before = id ? await entryOf(transaction, 'spot', id) : null;
    refuseStale('spot', before, seen);
    if (!before && (await listedSpots(transaction)).length >= MOST_SPOTS)
      throw new ArchiveError('value-refused', `${MOST_SPOTS} places are kept already.`);
    const verb = wish ? (before ? 'Changed' : 'Kept') : 'Took off the list:';
    return {
      summary: `${verb} the place “${(wish ?? before)!.name}”`,
      entries: [{ list: 'spot', id: own, before, after: wish }],
    };
  }).then((done) => ({ id: own, done }));
};
