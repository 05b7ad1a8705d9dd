import { sql, type Kysely, type Transaction } from 'kysely';
import { ArchiveError } from '#core/errors';
import type { PlaceRoot } from '#core/text/paths';
import { inColumns } from '../db/columns';
import type { Database } from '../db/schema';
import { pathOf } from './paths';

/** A file with where it lies. */
export interface LocatedFile {
  id: string;
  itemId: string;
  placeId: string;
  folderId: string;
  place: string;
  folder: string;
  name: string;
  role: string;
  /** Absolute path text. */
  path: string;
  root: string;
  handsOff: boolean;
  /** Records go beside the files of its place. */
  beside: boolean;
  size: number;
  contentHash: string;
  /** Content into which nothing can be written: the record goes beside it. */
  refusedHash: string | null;
  essenceHash: string | null;
  pictureKey: string;
  mediaType: string;
  format: string;
  kind: string;
  /** Upright, in px; null while nobody measured. */
  width: number | null;
  writtenVersion: number;
  state: 'present' | 'missing' | 'changed';
}

type Db = Kysely<Database> | Transaction<Database>;

/** What of a file is asked where thousands get other names or folders. */
export type NamedFile = Pick<
  LocatedFile,
  | 'id'
  | 'itemId'
  | 'placeId'
  | 'folderId'
  | 'place'
  | 'root'
  | 'handsOff'
  | 'folder'
  | 'name'
  | 'role'
  | 'state'
  | 'size'
  | 'contentHash'
>;

/** Files of items, originals first, in an order that stays the same. @param places all there are, by their ids */
export async function namedFilesOf(
  db: Kysely<Database>,
  itemIds: readonly string[],
  places: ReadonlyMap<string, { name: string; root: string; handsOff: boolean }>,
): Promise<NamedFile[]> {
  const query = db
    .selectFrom('file')
    .select(['id', 'itemId', 'placeId', 'folderId', 'name', 'role', 'state', 'size', 'contentHash'])
    .where('itemId', '=', sql<string>`any(${[...itemIds]}::uuid[])`);
  const all = await inColumns(db, query, [
    ...(['id', 'itemId', 'placeId', 'folderId', 'name', 'role', 'state', 'size'] as const),
    'contentHash',
  ]);
  const folders = await inColumns(
    db,
    db
      .selectFrom('folder')
      .select(['id', 'path'])
      .where('id', '=', sql<string>`any(${[...new Set(all.folderId)]}::uuid[])`),
    ['id', 'path'],
  );
  const pathOf = new Map(folders.id.map((id, at) => [id, folders.path[at]!]));
  const originals: NamedFile[] = [];
  const others: NamedFile[] = [];
  for (const [at, id] of all.id.entries()) {
    const { name: place, root, handsOff } = places.get(all.placeId[at]!)!;
    const role = all.role[at]!;
    (role === 'original' ? originals : others).push({
      id,
      itemId: all.itemId[at]!,
      placeId: all.placeId[at]!,
      folderId: all.folderId[at]!,
      place,
      root,
      handsOff,
      folder: pathOf.get(all.folderId[at]!)!,
      name: all.name[at]!,
      role,
      state: all.state[at]!,
      size: all.size[at]!,
      contentHash: all.contentHash[at]!,
    });
  }
  others.sort((a, b) => (a.id < b.id ? -1 : 1));
  return [...originals, ...others];
}

const located = (db: Db) =>
  db
    .selectFrom('file as f')
    .innerJoin('place as p', 'p.id', 'f.placeId')
    .innerJoin('folder as d', 'd.id', 'f.folderId')
    .innerJoin('item as i', 'i.id', 'f.itemId')
    .select([
      'f.id',
      'f.itemId',
      'f.placeId',
      'f.folderId',
      'f.name',
      'f.role',
      'f.size',
      'f.contentHash',
      'f.essenceHash',
      'f.refusedHash',
      'f.pictureKey',
      'f.writtenVersion',
      'f.state',
      'p.name as place',
      'p.root',
      'p.handsOff',
      'p.beside',
      'd.path as folder',
      'i.mediaType',
      'i.format',
      'i.kind',
      'i.width',
    ]);

/** Where places lie, for telling paths from their place on. */
export const placeRoots = (db: Db): Promise<PlaceRoot[]> =>
  db.selectFrom('place').select(['root', 'name']).execute();

const withPath = <T extends { root: string; folder: string; name: string }>(row: T) => ({
  ...row,
  path: pathOf(row, row.folder, row.name),
});

/** Files of items, originals first. */
export async function filesOf(db: Db, itemIds: string[]): Promise<LocatedFile[]> {
  if (itemIds.length === 0) return [];
  const rows = await located(db)
    .where('f.itemId', '=', sql<string>`any(${itemIds}::uuid[])`)
    .orderBy('f.itemId')
    .orderBy((order) => order.case().when('f.role', '=', 'original').then(0).else(1).end())
    .execute();
  return rows.map(withPath);
}

/** The original an item stands on, discarded or not: of a span its clip's. @throws ArchiveError not-found */
export async function originalOf(db: Db, itemId: string): Promise<LocatedFile> {
  const row = await located(db)
    .where('f.itemId', '=', sql<string>`(select holder_id from item where id = ${itemId}::uuid)`)
    .where('f.role', '=', 'original')
    .executeTakeFirst();
  if (!row) throw new ArchiveError('not-found', 'There is no such item.', { itemId });
  return withPath(row);
}
