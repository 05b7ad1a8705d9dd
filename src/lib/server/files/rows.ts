import type { BigIntStats } from 'node:fs';
import type { Kysely, Transaction } from 'kysely';
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
