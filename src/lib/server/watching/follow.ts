import { sql, type Transaction } from 'kysely';
import type { KnownFile, SeenFile } from '#core/holdings/compare';
import type { Database } from '../db/schema';
import { splitPath } from '../files/paths';
import type { House } from '../house/house';
import { batches } from '../jobs/batches';
import { notifyItems } from '../live/notify';
import { refreshWords } from '../records/records';
import { ensureFolder } from '../places/folderRows';
import type { Place } from '../places/places';

/** A file of the archive and where it lies now. */
export interface FoundFile {
  known: KnownFile;
  seen: SeenFile;
}

/** Rows follow their files, names that traded places too: all of them in one transaction. */
export async function follow(house: House, place: Place, found: FoundFile[]): Promise<void> {
  if (found.length === 0) return;
  await house.db.transaction().execute(async (db) => {
    const folders = new Map<string, string>();
    for (const { seen } of found) {
      const { folder } = splitPath(seen.path);
      if (!folders.has(folder)) folders.set(folder, await ensureFolder(db, place.id, folder));
    }
    for (const batch of batches(found)) {
      const column = <T>(of: (one: FoundFile) => T): T[] => batch.map(of);
      await sql`update file set place_id = ${place.id}, folder_id = now.folder_id, name = now.name,
          state = 'present', missing_since = null, size = now.size, modified_ns = now.modified_ns, inode = now.inode
        from unnest(${column(({ known }) => known.id)}::uuid[],
          ${column(({ seen }) => folders.get(splitPath(seen.path).folder)!)}::uuid[],
          ${column(({ seen }) => splitPath(seen.path).name)}::text[],
          ${column(({ seen }) => seen.size)}::bigint[],
          ${column(({ seen }) => seen.modified)}::numeric[],
          ${column(({ seen }) => seen.inode)}::numeric[]) as now(id, folder_id, name, size, modified_ns, inode)
        where file.id = now.id`.execute(db);
    }
    await tellOf(
      db,
      found.map(({ known }) => known.id),
    );
  });
}

/** Nobody finds these files: their records stay, marked missing. */
export async function markMissing(house: House, lost: KnownFile[]): Promise<void> {
  if (lost.length === 0) return;
  await house.db.transaction().execute(async (db) => {
    const ids = lost.map(({ id }) => id);
    await db
      .updateTable('file')
      .set({ state: 'missing', missingSince: house.now() })
      .where('id', '=', sql<string>`any(${ids}::uuid[])`)
      .execute();
    await tellOf(db, ids);
  });
}

/** Items of these files look different now: search, windows and what changed since. */
export async function tellOf(db: Transaction<Database>, fileIds: string[]): Promise<void> {
  const rows = await db
    .selectFrom('file')
    .select('itemId')
    .distinct()
    .where('id', '=', sql<string>`any(${fileIds}::uuid[])`)
    .execute();
  const ids = rows.map(({ itemId }) => itemId);
  for (const batch of batches(ids)) await refreshWords(db, batch);
  await notifyItems(db, ids);
}
