import { ArchiveError } from '#core/errors';
import { isInside } from '#core/holdings/grounds';
import { factsOf, isFolder, walk } from '../files/disk';
import { checkGround } from '../files/grounds';
import { hashFile } from '../files/hash';
import { joinPath } from '../files/paths';
import type { House } from '../house/house';
import { notify } from '../live/notify';
import { askToCompare } from './compare';
import { allPlaces, placeById } from '../places/places';
import { isHeld } from '../sight/seen';

export interface PlaceLine {
  id: string;
  name: string;
  root: string;
  handsOff: boolean;
  /** Records go beside its files, never into them. */
  beside: boolean;
  /** Other programs look in it: whoever renames or files is told. */
  shared: boolean;
  watched: boolean;
  /** Why not all of its folders can be watched, in the system's words. */
  deaf: string | null;
  here: boolean;
  awaySince: Date | null;
  lookedAt: Date | null;
  items: number;
  missing: number;
  bytes: number;
}

/** Every place with what lies in it. */
export async function placeLines(house: House): Promise<PlaceLine[]> {
  const rows = await house.db
    .selectFrom('place as p')
    .leftJoinLateral(
      (from) =>
        from
          .selectFrom('file as f')
          .innerJoin('item as i', 'i.id', 'f.itemId')
          .whereRef('f.placeId', '=', 'p.id')
          .where('f.role', '=', 'original')
          .where(isHeld('i'))
          .select((select) => [
            select.fn.countAll<string>().as('items'),
            select.fn.countAll<string>().filterWhere('f.state', '=', 'missing').as('missing'),
            select.fn.sum<string | null>('f.size').as('bytes'),
          ])
          .as('held'),
      (join) => join.onTrue(),
    )
    .select([
      'p.id',
      'p.name',
      'p.root',
      'p.handsOff',
      'p.beside',
      'p.shared',
      'p.watched',
      'p.here',
      'p.awaySince',
    ])
    .select(['p.deaf', 'p.lookedAt', 'held.items', 'held.missing', 'held.bytes'])
    .orderBy('p.name')
    .execute();
  return rows.map((row) => ({
    ...row,
    items: Number(row.items ?? 0),
    missing: Number(row.missing ?? 0),
    bytes: Number(row.bytes ?? 0),
  }));
}

/** Hands off, records beside its files, looked in by others, watched or not. @throws ArchiveError not-found */
export async function setPlace(
  house: House,
  id: string,
  change: { handsOff?: boolean; beside?: boolean; shared?: boolean; watched?: boolean },
): Promise<void> {
  await placeById(house.db, id);
  await house.db.updateTable('place').set(change).where('id', '=', id).execute();
  await notify(house.db, { about: 'places' });
}

const SAMPLE = 200;
const READ = 20;

/** How many of a place's files can be told to lie below a folder: by path and size, else by content. */
async function foundBelow(house: House, placeId: string, root: string): Promise<number> {
  const known = await house.db
    .selectFrom('file as f')
    .innerJoin('folder as d', 'd.id', 'f.folderId')
    .select(['f.name', 'd.path', 'f.size', 'f.contentHash'])
    .where('f.placeId', '=', placeId)
    .orderBy('f.id')
    .limit(SAMPLE)
    .execute();
  if (known.length === 0) return 1;
  let found = 0;
  for (const file of known) {
    const facts = await factsOf(joinPath(root, file.path, file.name));
    if (facts && Number(facts.size) === file.size) found += 1;
  }
  if (found > 0) return found;
  const bySize = new Map(known.map((file) => [file.size, file.contentHash]));
  const maybe = (await walk(root)).filter(({ size }) => bySize.has(size)).slice(0, READ);
  for (const { path, size } of maybe)
    if ((await hashFile(joinPath(root, path))) === bySize.get(size)) found += 1;
  return found;
}

/**
 * Point a place to where its folder lies now; its files are matched there by path and content.
 * @throws ArchiveError not-found, conflict where none of its files lies there or another place does
 */
export async function pointPlace(house: House, id: string, wished: string): Promise<void> {
  const place = await placeById(house.db, id);
  if (!(await isFolder(wished))) throw new ArchiveError('not-found', `“${wished}” is no folder.`);
  const root = checkGround(house, wished);
  for (const other of await allPlaces(house.db))
    if (other.id !== id && (isInside(other.root, root) || isInside(root, other.root)))
      throw new ArchiveError('conflict', `“${root}” overlaps the place “${other.name}”.`);
  if ((await foundBelow(house, id, root)) === 0)
    throw new ArchiveError(
      'conflict',
      `None of the files of “${place.name}” lies in “${root}”; it stays where it was.`,
    );
  await house.db
    .updateTable('place')
    .set({ root, here: true, awaySince: null })
    .where('id', '=', id)
    .execute();
  await notify(house.db, { about: 'places' });
  await askToCompare(house, place);
}
