import { parseWallClock } from '../records/taken';
import { dayOf } from './fill';
import type { NameSubject } from './piece';
import type { Follower, RenameSubject } from './rename';

/** A folder some subjects lie in, and the names there that are not theirs, as keys. */
export interface NamingFolder {
  id: string;
  place: string;
  /** Below the place. */
  path: string;
  /** UTF-16 units of its whole path with a slash behind; the path itself is told to nobody. */
  room: number;
  held: string[];
}

/** Subjects as columns: a hundred thousand of them travel as lists, not as as many objects. */
export interface SubjectColumns {
  ids: string[];
  names: string[];
  /** null: as the name. */
  originals: (string | null)[];
  /** Wall clock; null where unknown. */
  taken: (string | null)[];
  precisions: NameSubject['precision'][];
  offsets: (number | null)[];
  brought: (number | null)[];
  changed: (number | null)[];
  /** Position in `folders`. */
  folderOf: number[];
  folders: NamingFolder[];
  hashes: string[] | null;
  values: Record<string, string[]>;
  followers: [at: number, followers: Follower[]][];
}

/** What names are filled from, for whoever shows them before: columns, counters that go on, today, the zone. */
export interface NamingMaterial {
  columns: SubjectColumns;
  counters: Record<string, number>;
  now: number;
  zone: string;
  /** Places other programs look in. */
  shared: string[];
}

/** @param folders every folder subjects lie in */
export function packSubjects(
  subjects: readonly RenameSubject[],
  folders: NamingFolder[],
  keys: readonly string[],
  withHashes: boolean,
): SubjectColumns {
  const at = new Map(folders.map(({ id }, index) => [id, index]));
  return {
    folders,
    ids: subjects.map(({ id }) => id),
    names: subjects.map(({ name }) => name),
    originals: subjects.map(({ name, original }) => (original === name ? null : original)),
    taken: subjects.map(({ takenText }) => takenText ?? null),
    precisions: subjects.map(({ precision }) => precision),
    offsets: subjects.map(({ offset }) => offset ?? null),
    brought: subjects.map(({ brought }) => brought ?? null),
    changed: subjects.map(({ changed }) => changed ?? null),
    folderOf: subjects.map(({ folder }) => at.get(folder)!),
    hashes: withHashes ? subjects.map(({ hash = '' }) => hash) : null,
    values: Object.fromEntries(
      keys.map((key) => [key, subjects.map(({ values }) => values[key] ?? '')]),
    ),
    followers: subjects.flatMap(({ followers }, index): [number, Follower[]][] =>
      followers && followers.length > 0 ? [[index, followers]] : [],
    ),
  };
}

export function unpackSubjects(columns: SubjectColumns): RenameSubject[] {
  const keys = Object.keys(columns.values);
  const subjects = columns.ids.map((id, at): RenameSubject => {
    const name = columns.names[at]!;
    const folder = columns.folders[columns.folderOf[at]!]!;
    const takenText = columns.taken[at] ?? null;
    const values: Record<string, string> = {};
    for (const key of keys) values[key] = columns.values[key]![at]!;
    const taken = takenText === null ? null : parseWallClock(takenText);
    return {
      id,
      name,
      original: columns.originals[at] ?? name,
      values,
      taken,
      takenText,
      ...(taken ? { takenDay: dayOf(taken) } : {}),
      precision: columns.precisions[at]!,
      offset: columns.offsets[at] ?? null,
      brought: columns.brought[at] ?? null,
      changed: columns.changed[at] ?? null,
      folder: folder.id,
      path: folder.path,
      place: folder.place,
      hash: columns.hashes?.[at] ?? '',
    };
  });
  for (const [at, followers] of columns.followers) subjects[at]!.followers = followers;
  return subjects;
}

/** Name keys that are taken in each folder. */
export const heldIn = (folders: readonly NamingFolder[]): Map<string, ReadonlySet<string>> =>
  new Map(folders.map(({ id, held }) => [id, new Set(held)]));
