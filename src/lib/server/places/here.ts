import { readdir } from 'node:fs/promises';
import type { House } from '../house/house';
import { isFolder } from '../files/disk';
import { isAtItsPath } from '../files/grounds';
import { bytesOfPath } from '../files/paths';
import { notify } from '../live/notify';
import type { Place } from './places';

/**
 * Whether a place's folder is there. An empty folder where files are known is a disk that is not mounted:
 * the place is away, its files are not missing.
 */
export async function rootIsHere(
  house: House,
  place: Pick<Place, 'id' | 'root'>,
): Promise<boolean> {
  // A place whose ground is closed, or led elsewhere by a link, is not looked at.
  if (!(await isFolder(place.root)) || !isAtItsPath(house, place.root)) return false;
  const names = await readdir(bytesOfPath(place.root)).catch(() => [] as string[]);
  if (names.length > 0) return true;
  const known = await house.db
    .selectFrom('file')
    .select('id')
    .where('placeId', '=', place.id)
    .where('state', '<>', 'missing')
    .limit(1)
    .executeTakeFirst();
  return known === undefined;
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
