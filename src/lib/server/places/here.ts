import { opendir } from 'node:fs/promises';
import type { Kysely } from 'kysely';
import type { Database } from '../db/schema';
import type { House } from '../house/house';
import { isFolder } from '../files/disk';
import { isAtItsPath } from '../files/grounds';
import { bytesOfPath } from '../files/paths';
import { notify } from '../live/notify';
import type { Place } from './places';

async function holdsAny(folder: string): Promise<boolean> {
  const opened = await opendir(bytesOfPath(folder) as unknown as string).catch(() => null);
  if (!opened) return false;
  try {
    return (await opened.read()) !== null;
  } finally {
    await opened.close();
  }
}

type Rooted = Pick<Place, 'id' | 'root'>;

/**
 * Whether a place's folder is there. An empty folder where files are known is a disk that is not mounted:
 * the place is away, its files are not missing.
 */
export async function isMounted(db: Kysely<Database>, place: Rooted): Promise<boolean> {
  if (!(await isFolder(place.root))) return false;
  if (await holdsAny(place.root)) return true;
  const known = await db
    .selectFrom('file')
    .select('id')
    .where('placeId', '=', place.id)
    .where('state', '<>', 'missing')
    .limit(1)
    .executeTakeFirst();
  return known === undefined;
}

/** As {@link isMounted}; a place whose ground is closed, or led elsewhere by a link, is not looked at. */
export const rootIsHere = async (house: House, place: Rooted): Promise<boolean> =>
  isAtItsPath(house, place.root) && (await isMounted(house.db, place));

/** Which places are here. */
export async function placesHere(
  db: Kysely<Database>,
  places: readonly Rooted[],
): Promise<Map<string, boolean>> {
  const states = await Promise.all(
    places.map(async (place) => [place.id, await isMounted(db, place)] as const),
  );
  return new Map(states);
}

/** Note that a place is here or away; windows hear of a change. */
export async function setHere(
  house: House,
  place: Pick<Place, 'id'>,
  here: boolean,
): Promise<void> {
  const changed = await house.db
    .updateTable('place')
    .set({ here, awaySince: here ? null : house.now() })
    .where('id', '=', place.id)
    .where('here', '<>', here)
    .returning('id')
    .executeTakeFirst();
  if (changed) await notify(house.db, { about: 'places' });
}

/** Note why a place cannot be watched as a whole, or that it is; windows hear of a change. */
export async function setDeaf(
  house: House,
  place: Pick<Place, 'id'>,
  deaf: string | null,
): Promise<void> {
  await house.db.updateTable('place').set({ deaf }).where('id', '=', place.id).execute();
  await notify(house.db, { about: 'places' });
}
