import { sql, type Kysely } from 'kysely';
import { WASTEBASKET } from '#core/holdings/wastebasket';
import { Folders } from '#core/naming/filing';
import { nameKey } from '#core/naming/names';
import type { Held } from '#core/naming/rename';
import type { Database } from '../db/schema';
import { isTemporary, namesIn } from '../files/disk';
import { joinPath, splitPath } from '../files/paths';
import { missingNames } from '../files/rows';
import type { Place } from '../places/places';

/** What lies where files are to go. */
export interface Where {
  placeId: string;
  folder: string;
}
export const whereKey = ({ placeId, folder }: Where): string => `${placeId}/${folder}`;

/** Folders of many files, each once. */
const distinct = (all: readonly Where[]): Iterable<Where> =>
  new Map(all.map((where) => [whereKey(where), where])).values();

/** What is being written just now is gone before anything else is done there. */
const withoutOurs = (names: string[]): string[] => names.filter((name) => !isTemporary(name));

/** The names on a disk, each folder read once. */
export function reader(places: ReadonlyMap<string, Place>): (where: Where) => Promise<string[]> {
  const read = new Map<string, Promise<string[]>>();
  return (where) => {
    const key = whereKey(where);
    const root = places.get(where.placeId)!.root;
    const names = read.get(key) ?? namesIn(joinPath(root, where.folder)).then(withoutOurs);
    read.set(key, names);
    return names;
  };
}
export type Reader = ReturnType<typeof reader>;

/** Folders of places, as the archive knows them. */
export async function foldersOfPlaces(
  db: Kysely<Database>,
  ids: readonly string[],
): Promise<Map<string, Folders>> {
  const rows = await db
    .selectFrom('folder')
    .select(['placeId', 'path'])
    .where('placeId', '=', sql<string>`any(${[...ids]}::uuid[])`)
    .where('path', '<>', WASTEBASKET)
    .execute();
  const paths = new Map<string, string[]>(ids.map((id) => [id, []]));
  for (const { placeId, path } of rows) paths.get(placeId)!.push(path);
  return new Map([...paths].map(([id, all]) => [id, new Folders(all)]));
}

/** Take in folders of the disk that the archive has no row of, where a plan would make one of that name. */
export async function joinDisk(
  folders: ReadonlyMap<string, Folders>,
  namesAt: Reader,
  wished: readonly Where[],
): Promise<void> {
  const known = new Set<string>();
  for (const { placeId, folder } of distinct(wished)) {
    const own = folders.get(placeId)!;
    let above = '';
    for (const part of folder.split('/').filter(Boolean)) {
      const key = whereKey({ placeId, folder: joinPath(above, part) });
      if (!known.has(key)) {
        known.add(key);
        const names = await namesAt({ placeId, folder: above });
        const found = names.find((name) => nameKey(name) === nameKey(part));
        if (found !== undefined) own.know(joinPath(above, found));
      }
      above = own.spelled(joinPath(above, part));
    }
  }
}

/** Names that are taken where files go, on disk or by files that are missing, but for those that leave. */
export async function heldAt(
  db: Kysely<Database>,
  targets: readonly Where[],
  namesAt: Reader,
  leaving: ReadonlySet<string>,
): Promise<Held> {
  const wished = [...distinct(targets)];
  const { rows } = await sql<{ id: string; placeId: string; folder: string }>`
    select d.id, d.place_id, d.path as folder from folder d
    join unnest(${wished.map(({ placeId }) => placeId)}::uuid[], ${wished.map(({ folder }) => folder)}::text[])
      as wished(place_id, path) using (place_id, path)`.execute(db);
  const ids = new Map(rows.map((row) => [whereKey(row), row.id]));
  const missing = await missingNames(db, [...ids.values()]);
  const held = new Map<string, Set<string>>();
  for (const where of wished) {
    const key = whereKey(where);
    const lost = missing.get(ids.get(key) ?? '') ?? [];
    const keys = [...(await namesAt(where)), ...lost].map(nameKey);
    held.set(key, new Set(keys.filter((name) => !leaving.has(`${key}/${name}`))));
  }
  return held;
}

/**
 * Folders in which nothing is left once some files have gone, those above them too, the deepest first.
 * @param into where files come to: these stay
 */
export async function emptiedBy(
  sources: readonly Where[],
  into: readonly Where[],
  namesAt: Reader,
  leaving: ReadonlySet<string>,
): Promise<Where[]> {
  const kept = new Set<string>();
  for (const { placeId, folder } of distinct(into))
    for (let at = folder; at !== ''; at = splitPath(at).folder)
      kept.add(whereKey({ placeId, folder: at }));
  const candidates = new Map<string, Where>();
  for (const { placeId, folder } of distinct(sources))
    for (let at = folder; at !== ''; at = splitPath(at).folder)
      candidates.set(whereKey({ placeId, folder: at }), { placeId, folder: at });
  const depth = ({ folder }: Where): number => folder.split('/').length;
  const emptied = new Map<string, Where>();
  for (const [key, where] of [...candidates].sort(([, a], [, b]) => depth(b) - depth(a))) {
    if (kept.has(key)) continue;
    const names = await namesAt(where);
    const isLeft = (name: string): boolean =>
      !leaving.has(`${key}/${nameKey(name)}`) &&
      !emptied.has(whereKey({ placeId: where.placeId, folder: joinPath(where.folder, name) }));
    if (!names.some(isLeft)) emptied.set(key, where);
  }
  return [...emptied.values()];
}
