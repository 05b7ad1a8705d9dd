import { sql, type Kysely } from 'kysely';
import { WASTEBASKET } from '#core/holdings/wastebasket';
import { Folders } from '#core/naming/filing';
import { nameKey } from '#core/naming/names';
import type { TakenNames } from '#core/naming/rename';
import type { Database } from '../db/schema';
import { isTemporary, namesIn } from '../files/disk';
import { joinPath, splitPath } from '../files/paths';
import { missingNames } from '../files/rows';
import type { Place } from '../places/places';

/** A folder files lie in or go to: the same object wherever it is named in one plan. */
export interface Where {
  readonly placeId: string;
  readonly folder: string;
  /** It is told apart from others by this. */
  readonly key: string;
}

/** Every folder of a plan, once: ten thousand files lie in a few hundred. */
export class Wheres {
  readonly #places = new Map<string, Map<string, Where>>();

  at(placeId: string, folder: string): Where {
    let own = this.#places.get(placeId);
    if (!own) this.#places.set(placeId, (own = new Map()));
    let where = own.get(folder);
    if (!where) own.set(folder, (where = { placeId, folder, key: `${placeId}/${folder}` }));
    return where;
  }

  /** Where a file lies. */
  of = ({ placeId, folder }: { placeId: string; folder: string }): Where =>
    this.at(placeId, folder);
}

/** Name keys of files that leave their folders. */
export class Leaving {
  readonly #names = new Map<Where, Set<string>>();

  add(where: Where, name: string): void {
    const own = this.#names.get(where);
    if (own) own.add(nameKey(name));
    else this.#names.set(where, new Set([nameKey(name)]));
  }

  has = (where: Where, key: string): boolean => this.#names.get(where)?.has(key) === true;
}

/** What is being written just now is gone before anything else is done there. */
const withoutOurs = (names: string[]): string[] => names.filter((name) => !isTemporary(name));

/** The names on a disk, each folder read once. */
export function reader(places: ReadonlyMap<string, Place>): (where: Where) => Promise<string[]> {
  const read = new Map<Where, Promise<string[]>>();
  return (where) => {
    const root = places.get(where.placeId)!.root;
    const names = read.get(where) ?? namesIn(joinPath(root, where.folder)).then(withoutOurs);
    read.set(where, names);
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
  wheres: Wheres,
  wished: Iterable<Where>,
): Promise<void> {
  const known = new Set<Where>();
  for (const { placeId, folder } of wished) {
    const own = folders.get(placeId)!;
    let above = '';
    for (const part of folder.split('/').filter(Boolean)) {
      const there = wheres.at(placeId, joinPath(above, part));
      if (!known.has(there)) {
        known.add(there);
        const names = await namesAt(wheres.at(placeId, above));
        const found = names.find((name) => nameKey(name) === nameKey(part));
        if (found !== undefined) own.know(joinPath(above, found));
      }
      above = own.spelled(there.folder);
    }
  }
}

/** Names that are taken where files go, on disk or by files that are missing, but for those that leave. */
export async function heldAt(
  db: Kysely<Database>,
  targets: ReadonlySet<Where>,
  namesAt: Reader,
  wheres: Wheres,
  leaving: Leaving,
): Promise<TakenNames> {
  const wished = [...targets];
  const { rows } = await sql<{ id: string; placeId: string; folder: string }>`
    select d.id, d.place_id, d.path as folder from folder d
    join unnest(${wished.map(({ placeId }) => placeId)}::uuid[], ${wished.map(({ folder }) => folder)}::text[])
      as wished(place_id, path) using (place_id, path)`.execute(db);
  const ids = new Map(rows.map((row) => [wheres.of(row), row.id]));
  const missing = await missingNames(db, [...ids.values()]);
  const held = new Map<string, Set<string>>();
  for (const where of wished) {
    const lost = missing.get(ids.get(where) ?? '') ?? [];
    const keys = [...(await namesAt(where)), ...lost].map(nameKey);
    held.set(where.key, new Set(keys.filter((name) => !leaving.has(where, name))));
  }
  return held;
}

/**
 * Folders in which nothing is left once some files have gone, those above them too, the deepest first.
 * @param into where files come to: these stay
 */
export async function emptiedBy(
  { sources, into }: { sources: ReadonlySet<Where>; into: ReadonlySet<Where> },
  namesAt: Reader,
  wheres: Wheres,
  leaving: Leaving,
): Promise<Where[]> {
  const withAbove = (all: Iterable<Where>): Set<Where> => {
    const found = new Set<Where>();
    for (const { placeId, folder } of all)
      for (let at = folder; at !== ''; at = splitPath(at).folder) found.add(wheres.at(placeId, at));
    return found;
  };
  const kept = withAbove(into);
  const depth = ({ folder }: Where): number => folder.split('/').length;
  const emptied = new Set<Where>();
  for (const where of [...withAbove(sources)].sort((a, b) => depth(b) - depth(a))) {
    if (kept.has(where)) continue;
    const isLeft = (name: string): boolean =>
      !leaving.has(where, nameKey(name)) &&
      !emptied.has(wheres.at(where.placeId, joinPath(where.folder, name)));
    const names = await namesAt(where);
    if (!names.some(isLeft)) emptied.add(where);
  }
  return [...emptied];
}
