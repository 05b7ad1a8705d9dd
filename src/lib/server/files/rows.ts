import type { BigIntStats } from 'node:fs';
import { sql, type Kysely, type Transaction } from 'kysely';
import type { Database } from '../db/schema';
import { newId } from '../house/ids';
import type { ContentHash } from './hash';

type Db = Kysely<Database> | Transaction<Database>;

export interface NewFile {
  /** A new one where it is not told. */
  id?: string;
  itemId: string;
  placeId: string;
  folderId: string;
  name: string;
  role: Database['file']['role'];
  contentHash: ContentHash;
  /** Of originals with picture data of their own. */
  essenceHash?: ContentHash | null;
  /** What its pictures are kept under; its content where nothing better is known. */
  pictureKey?: string;
}

const columns = (file: NewFile, facts: BigIntStats) => ({
  essenceHash: null,
  pictureKey: file.contentHash,
  ...file,
  size: Number(facts.size),
  modifiedNs: facts.mtimeNs,
  inode: facts.ino,
  writeProblem: null,
  verifiedAt: new Date(),
});

/** Note a file of an item whose content was just read. */
export async function insertFile(db: Db, file: NewFile, facts: BigIntStats): Promise<void> {
  await db
    .insertInto('file')
    .values({ ...columns(file, facts), id: file.id ?? newId() })
    .execute();
}

/** Let the row of a file stand for another from now on. */
export async function replaceFile(
  db: Db,
  id: string,
  file: NewFile,
  facts: BigIntStats,
): Promise<void> {
  await db
    .updateTable('file')
    .set({ ...columns(file, facts), state: 'present', missingSince: null })
    .where('id', '=', id)
    .execute();
}

/** Whether the archive knows a file of this name in a folder. */
export async function isKnownName(db: Db, folderId: string, name: string): Promise<boolean> {
  const row = await db
    .selectFrom('file')
    .select('id')
    .where('folderId', '=', folderId)
    .where('name', '=', name)
    .executeTakeFirst();
  return row !== undefined;
}

/** Names of files that are missing, by their folders: they may come back under them. */
export async function missingNames(
  db: Db,
  folderIds: readonly string[],
): Promise<Map<string, string[]>> {
  const rows = await db
    .selectFrom('file')
    .select(['folderId', 'name'])
    .where('folderId', '=', sql<string>`any(${[...folderIds]}::uuid[])`)
    .where('state', '=', 'missing')
    .execute();
  const names = new Map<string, string[]>();
  for (const { folderId, name } of rows) {
    const own = names.get(folderId);
    if (own) own.push(name);
    else names.set(folderId, [name]);
  }
  return names;
}

/**
 * Files were laid under some names just now: whoever the archive thought to lie there is gone, and is called missing
 * under a name of its own, so that its row stands in nobody's way.
 * @param mine ids of the files that were laid
 */
export async function takeNames(
  db: Transaction<Database>,
  laid: readonly { folderId: string; name: string }[],
  mine: readonly string[],
): Promise<void> {
  await sql`update file f set state = 'missing', missing_since = coalesce(f.missing_since, now()),
      name = f.name || ' (missing ' || right(f.id::text, 12) || ')'
    from unnest(${laid.map(({ folderId }) => folderId)}::uuid[], ${laid.map(({ name }) => name)}::text[])
      as laid(folder_id, name)
    where f.folder_id = laid.folder_id and f.name = laid.name and f.id <> all(${[...mine]}::uuid[])`.execute(
    db,
  );
}
