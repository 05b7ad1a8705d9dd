import type { Kysely } from 'kysely';
import { ArchiveError } from '#core/errors';
import type { Database } from '../db/schema';
import { markOf, type Root } from '../files/disks';
import { isMounted } from '../places/here';

/** A place as those see it who are about to change something there. */
interface Ground extends Root {
  handsOff: boolean;
  here: boolean;
}
export type Places = ReadonlyMap<string, Ground>;

export async function groundOf(db: Kysely<Database>): Promise<Places> {
  const all = await db
    .selectFrom('place')
    .select(['id', 'root', 'name as place', 'handsOff'])
    .execute();
  const places = new Map<string, Ground>();
  for (const { id, root, ...place } of all)
    places.set(id, {
      ...place,
      root,
      mark: await markOf(root),
      here: await isMounted(db, { id, root }),
    });
  return places;
}

/** @throws ArchiveError not-found where it is away, or no place of ours any more */
export function presentPlace(places: Places, id: string): Ground {
  const place = places.get(id);
  if (!place) throw new ArchiveError('not-found', 'Its place is not looked after any more.');
  if (!place.here) throw new ArchiveError('not-found', `“${place.place}” is away.`);
  return place;
}
