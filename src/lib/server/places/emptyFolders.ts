import { sql, type Kysely, type Transaction } from 'kysely';
import { ArchiveError } from '#core/errors';
import { WASTEBASKET } from '#core/holdings/wastebasket';
import { counted } from '#core/text/quantities';
import type { Database } from '../db/schema';
import { isFolder, makeFolderInside, namesIn, removeEmptyFolder, syncFolder } from '../files/disk';
import { refuseHandsOff } from '../files/door';
import { joinPath, realInside, splitPath } from '../files/paths';
import { newId } from '../house/ids';
import { notify } from '../live/notify';
import { moveFolderBack } from './folders';
import { ensureFolder } from './folderRows';

type Db = Kysely<Database> | Transaction<Database>;

interface Known {
  id: string;
  path: string;
  placeId: string;
  place: string;
  root: string;
  handsOff: boolean;
  files: number;
}

/** A folder and all below it, the deepest first. */
async function treeOf(db: Db, folderId: string): Promise<Known[]> {
  const { rows } = await sql<Known>`
    with recursive tree as (
      select id, path, place_id, 0 as depth from folder where id = ${folderId}::uuid
      union all select d.id, d.path, d.place_id, tree.depth + 1 from folder d join tree on d.parent_id = tree.id
    )
    select tree.id, tree.path, tree.place_id, p.name as place, p.root, p.hands_off,
      (select count(*)::int from file f where f.folder_id = tree.id) as files
    from tree join place p on p.id = tree.place_id order by tree.depth desc, tree.path`.execute(db);
  return rows;
}

/** Folders in which, and below which, the archive knows of no file of any part; but for the places' own. */
export async function emptyFolders(db: Db): Promise<string[]> {
  const { rows } = await sql<{ id: string }>`
    with recursive holding as (
      select d.id from folder d where exists (select from file f where f.folder_id = d.id)
      union select d.parent_id from folder d join holding on holding.id = d.id where d.parent_id is not null
    )
    select id from folder where path not in ('', ${WASTEBASKET}) except select id from holding`.execute(
    db,
  );
  return rows.map(({ id }) => id);
}

/** What lies in a folder on disk that is no folder of an empty tree. */
async function strayIn(path: string): Promise<string | null> {
  for (const name of await namesIn(path)) {
    const below = joinPath(path, name);
    const stray = (await isFolder(below)) ? await strayIn(below) : name;
    if (stray !== null) return stray;
  }
  return null;
}

async function removeTree(path: string): Promise<void> {
  for (const name of await namesIn(path)) await removeTree(joinPath(path, name));
  await removeEmptyFolder(path);
}

/** @throws ArchiveError conflict where anything but empty folders lies in it */
async function removeFromDisk(top: Known, name: string, above: string): Promise<void> {
  const path = joinPath(top.root, top.path);
  if (!(await isFolder(path))) return;
  await realInside(path, top.root);
  const stray = await strayIn(path);
  if (stray !== null)
    throw new ArchiveError('conflict', `“${name}” is not empty on disk: “${stray}” lies in it.`);
  await removeTree(path);
  await syncFolder(joinPath(top.root, above)).catch(() => undefined);
}

/** Remove one folder that nothing lies in, on the disk and here. @throws ArchiveError conflict where anything does */
export async function dropEmptyFolder(
  db: Kysely<Database>,
  place: { id: string; root: string },
  path: string,
): Promise<void> {
  const { name } = splitPath(path);
  const own = joinPath(place.root, path);
  await db.transaction().execute(async (transaction) => {
    const row = await transaction
      .selectFrom('folder')
      .select('id')
      .where('placeId', '=', place.id)
      .where('path', '=', path)
      .executeTakeFirst();
    const held = row
      ? await transaction
          .selectFrom('file')
          .select('id')
          .where('folderId', '=', row.id)
          .limit(1)
          .executeTakeFirst()
      : undefined;
    const [stray] = (await isFolder(own)) ? await namesIn(own) : [];
    if (held || stray !== undefined)
      throw new ArchiveError(
        'conflict',
        `“${name}” is not empty${stray === undefined ? '' : `: “${stray}” lies in it`}.`,
      );
    if (row) await transaction.deleteFrom('folder').where('id', '=', row.id).execute();
    if (!(await isFolder(own))) return;
    await realInside(own, place.root);
    await removeEmptyFolder(own);
  });
  await syncFolder(joinPath(place.root, splitPath(path).folder)).catch(() => undefined);
}

/** Note what was done with folders of a place. */
async function noteFolders(
  db: Transaction<Database>,
  actorId: string | null,
  summary: string,
  steps: { before: object; after: object }[],
  undoes: string | null = null,
): Promise<string> {
  const id = newId();
  const done = { state: 'done' as const };
  await db
    .insertInto('operation')
    .values({ id, kind: 'folders', summary, actorId, undoes, total: steps.length, ...done })
    .execute();
  await db
    .insertInto('operationStep')
    .values(
      steps.map(({ before, after }, position) => ({
        operationId: id,
        position,
        action: 'folder' as const,
        itemId: null,
        fileId: null,
        before: JSON.stringify(before),
        after: JSON.stringify(after),
        ...done,
      })),
    )
    .execute();
  return id;
}

/**
 * Remove a folder that holds nothing, and the empty ones below it; the ledger gives them back.
 * @throws ArchiveError not-found, not-allowed for a place's own folder and hands-off places, conflict where anything
 * lies in it, known or not
 */
export async function removeEmptyFolders(
  db: Kysely<Database>,
  actorId: string | null,
  folderId: string,
  undoes: string | null = null,
): Promise<{ operation: string; removed: number }> {
  const tree = await treeOf(db, folderId);
  const top = tree.at(-1);
  if (!top) throw new ArchiveError('not-found', 'There is no such folder.');
  if (top.path === '')
    throw new ArchiveError('not-allowed', 'The folder of a place is removed with the place.');
  refuseHandsOff(top);
  const { name, folder: above } = splitPath(top.path);
  const full = tree.find(({ files }) => files > 0);
  if (full)
    throw new ArchiveError(
      'conflict',
      `“${splitPath(full.path).name}” is not empty: the archive knows of ${counted(full.files, 'file')} in it.`,
    );
  const operation = await db.transaction().execute(async (transaction) => {
    // Rows first, the deepest of all: where a file comes in at this moment, nothing is removed.
    for (const { id } of tree)
      await transaction.deleteFrom('folder').where('id', '=', id).execute();
    await removeFromDisk(top, name, above);
    await notify(transaction, { about: 'places' });
    const steps = tree.map(({ placeId, path: own }) => ({
      before: { placeId, path: own },
      after: {},
    }));
    return noteFolders(transaction, actorId, `Removed the empty folder “${name}”`, steps, undoes);
  });
  return { operation, removed: tree.length };
}

/** Give removed folders back, or take those that were given back away again. */
export async function undoFolders(
  db: Kysely<Database>,
  actorId: string | null,
  undoes: string,
  summary: string,
): Promise<string> {
  const steps = await db
    .selectFrom('operationStep')
    .select(['before', 'after'])
    .where('operationId', '=', undoes)
    .orderBy('position', 'desc')
    .execute();
  const moved = steps.find(({ before, after }) => 'path' in before && 'path' in after);
  if (moved)
    return moveFolderBack(db, actorId, moved as unknown as Parameters<typeof moveFolderBack>[2], {
      undoes,
      summary,
    });
  const gone = steps.filter(({ before }) => before['path'] !== undefined);
  if (gone.length === 0) {
    // The one above all others has the shortest path.
    const [first] = steps
      .map(({ after }) => after as { placeId: string; path: string })
      .sort((a, b) => a.path.length - b.path.length) as [{ placeId: string; path: string }];
    const row = await db
      .selectFrom('folder')
      .select('id')
      .where('placeId', '=', first.placeId)
      .where('path', '=', first.path)
      .executeTakeFirst();
    if (!row) throw new ArchiveError('conflict', 'These folders are gone already.');
    return (await removeEmptyFolders(db, actorId, row.id, undoes)).operation;
  }
  return db.transaction().execute(async (transaction) => {
    for (const { before } of gone) {
      const { placeId, path } = before as { placeId: string; path: string };
      const { root, handsOff, name } = await transaction
        .selectFrom('place')
        .select(['root', 'handsOff', 'name'])
        .where('id', '=', placeId)
        .executeTakeFirstOrThrow();
      refuseHandsOff({ place: name, handsOff });
      await makeFolderInside(root, path);
      await realInside(joinPath(root, path), root);
      await ensureFolder(transaction, placeId, path);
    }
    await notify(transaction, { about: 'places' });
    const back = gone.map(({ before }) => ({ before: {}, after: before }));
    return noteFolders(transaction, actorId, `Undid: ${summary}`, back, undoes);
  });
}
