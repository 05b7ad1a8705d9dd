import { rename } from 'node:fs/promises';
import { sql, type Kysely, type Transaction } from 'kysely';
import { ArchiveError, sentenceOf } from '#core/errors';
import { WASTEBASKET } from '#core/holdings/wastebasket';
import { nameKey, nameProblem, pathProblem } from '#core/naming/names';
import type { Database } from '../db/schema';
import { diskError, isFolder, isThere, makeFolder, namesIn, syncFolder } from '../files/disk';
import { refuseHandsOff } from '../files/door';
import { bytesOfPath, joinPath, realInside, splitPath } from '../files/paths';
import { newId } from '../house/ids';
import { enqueue } from '../jobs/queue';
import { notify, notifyItems } from '../live/notify';
import { ensureFolder } from './folderRows';

/** Folders of places made, renamed and moved: one step on the disk, noted before it is done. */
type Db = Kysely<Database>;

interface FolderRow {
  id: string;
  placeId: string;
  path: string;
  place: string;
  root: string;
  handsOff: boolean;
}

async function folderById(db: Db, id: string): Promise<FolderRow> {
  const row = await db
    .selectFrom('folder as d')
    .innerJoin('place as p', 'p.id', 'd.placeId')
    .select(['d.id', 'd.placeId', 'd.path', 'p.name as place', 'p.root', 'p.handsOff'])
    .where('d.id', '=', id)
    .executeTakeFirst();
  if (!row || row.path === WASTEBASKET)
    throw new ArchiveError('not-found', 'There is no such folder.');
  return row;
}

/** @throws ArchiveError name-refused, conflict where the disk has one of that name, whatever its case or composition */
async function refuseTaken(above: FolderRow, name: string, own: string | null): Promise<void> {
  const problem = nameProblem(name) ?? pathProblem(joinPath(above.path, name));
  if (problem) throw new ArchiveError('name-refused', `“${name}”: ${problem}.`);
  if (!(await isFolder(above.root)))
    throw new ArchiveError('not-found', `“${above.place}” is away.`);
  const names = await namesIn(joinPath(above.root, above.path));
  const taken = names.find((other) => nameKey(other) === nameKey(name) && other !== own);
  if (taken !== undefined)
    throw new ArchiveError('conflict', `“${taken}” is there already.`, { name: taken });
}

async function note(
  db: Kysely<Database> | Transaction<Database>,
  actorId: string | null,
  {
    summary,
    state,
    undoes = null,
  }: { summary: string; state: 'doing' | 'done'; undoes?: string | null },
  step: { before: object; after: object },
): Promise<string> {
  const id = newId();
  const finishedAt = state === 'done' ? new Date() : null;
  await sql`with noted as (
      insert into operation (id, kind, summary, actor_id, undoes, total, state, finished_at)
      values (${id}::uuid, 'folders', ${summary}, ${actorId}::uuid, ${undoes}::uuid, 1, ${state}, ${finishedAt})
      returning id)
    insert into operation_step (operation_id, position, action, before, after, state)
    select id, 0, 'folder', ${JSON.stringify(step.before)}::jsonb, ${JSON.stringify(step.after)}::jsonb, ${state}
    from noted`.execute(db);
  return id;
}

/**
 * Make a folder below another; the ledger takes it away again.
 * @throws ArchiveError not-found, not-allowed, name-refused, conflict
 */
export async function makeFolderIn(
  db: Db,
  actorId: string | null,
  parentId: string,
  name: string,
): Promise<{ id: string; operation: string }> {
  const above = await folderById(db, parentId);
  refuseHandsOff(above);
  await refuseTaken(above, name, null);
  const path = joinPath(above.path, name);
  const whole = joinPath(above.root, path);
  await realInside(joinPath(above.root, above.path), above.root);
  await makeFolder(whole);
  return db.transaction().execute(async (transaction) => {
    const id = await ensureFolder(transaction, above.placeId, path);
    const operation = await note(
      transaction,
      actorId,
      { summary: `Made the folder “${name}”`, state: 'done' },
      { before: {}, after: { placeId: above.placeId, path } },
    );
    await notify(transaction, { about: 'places' });
    return { id, operation };
  });
}

interface FolderMove {
  placeId: string;
  root: string;
  from: string;
  to: string;
}

/** Paths of a folder and all below it, as they are called from now on; and what is found by them. */
async function storePaths(
  db: Transaction<Database>,
  { placeId, from, to }: FolderMove,
  operationId: string,
): Promise<void> {
  const { folder: above, name } = splitPath(to);
  const parentId = await ensureFolder(db, placeId, above);
  // A row of the new path that nothing lies in is left from before.
  await sql`delete from folder d where d.place_id = ${placeId}::uuid and d.path = ${to}
    and not exists (select from file f where f.folder_id = d.id)
    and not exists (select from folder e where e.parent_id = d.id)`.execute(db);
  await sql`update folder set path = ${to} || substr(path, length(${from}) + 1)
    where place_id = ${placeId}::uuid and (path = ${from} or starts_with(path, ${`${from}/`}))`.execute(
    db,
  );
  await db
    .updateTable('folder')
    .set({ name, parentId })
    .where('placeId', '=', placeId)
    .where('path', '=', to)
    .execute();
  await sql`with steps as (update operation_step set state = 'done' where operation_id = ${operationId}::uuid)
    update operation set state = 'done', finished_at = now() where id = ${operationId}::uuid`.execute(
    db,
  );
  await enqueue(db, [
    {
      task: 'find-words',
      title: 'Making words found',
      subject: operationId,
      operationId,
    },
  ]);
  await notify(db, { about: 'places' });
  await notifyItems(db, 'many', ['folder', 'name']);
}

async function fail(db: Db, operationId: string, reason: string): Promise<void> {
  await sql`with steps as (
      update operation_step set state = 'failed', reason = ${reason} where operation_id = ${operationId}::uuid)
    update operation set state = 'failed', finished_at = now() where id = ${operationId}::uuid`.execute(
    db,
  );
}

/** Move a folder on the disk, then here. It was noted before. */
async function carryOut(db: Db, operationId: string, move: FolderMove): Promise<void> {
  const [source, target] = [joinPath(move.root, move.from), joinPath(move.root, move.to)];
  try {
    await realInside(source, move.root);
    await realInside(joinPath(move.root, splitPath(move.to).folder), move.root);
    const isOwnName = nameKey(source) === nameKey(target);
    if (!isOwnName && (await isThere(target)))
      throw new ArchiveError('conflict', `“${splitPath(move.to).name}” is there already.`);
    await rename(bytesOfPath(source), bytesOfPath(target)).catch((error: unknown) => {
      throw diskError(error, source);
    });
    for (const path of [move.from, move.to])
      await syncFolder(joinPath(move.root, splitPath(path).folder));
  } catch (error) {
    await fail(db, operationId, sentenceOf(error));
    throw error;
  }
  await db.transaction().execute((transaction) => storePaths(transaction, move, operationId));
}

/**
 * Give a folder another name, or put it into another folder of its place, with all that lies in it.
 * @returns the operation
 * @throws ArchiveError not-found, not-allowed for a place's own folder, for hands-off and other places, name-refused,
 * conflict
 */
export async function moveFolder(
  db: Db,
  actorId: string | null,
  folderId: string,
  wish: { name?: string | undefined; parentId?: string | undefined },
): Promise<string> {
  const own = await folderById(db, folderId);
  if (own.path === '')
    throw new ArchiveError('not-allowed', 'A place is renamed and moved among the places.');
  refuseHandsOff(own);
  const { folder: lies, name: called } = splitPath(own.path);
  const above = wish.parentId ? await folderById(db, wish.parentId) : { ...own, path: lies };
  if (above.placeId !== own.placeId)
    throw new ArchiveError(
      'not-allowed',
      `“${called}” lies in “${own.place}”. File its items into “${above.place}” instead: they are copied and verified one by one.`,
    );
  if (above.path === own.path || above.path.startsWith(`${own.path}/`))
    throw new ArchiveError('conflict', `“${called}” cannot lie in itself.`);
  const name = wish.name ?? called;
  const to = joinPath(above.path, name);
  if (to === own.path) throw new ArchiveError('conflict', `“${called}” lies there already.`);
  await refuseTaken(above, name, above.path === lies ? called : null);
  await refuseLong(db, own, to);
  const summary =
    above.path === lies
      ? `Renamed the folder “${called}” to “${name}”`
      : `Moved the folder “${called}” into “${above.path || above.place}”`;
  return startMove(
    db,
    actorId,
    { placeId: own.placeId, root: own.root, from: own.path, to },
    summary,
  );
}

/** @throws ArchiveError name-refused where a folder below would be too long */
async function refuseLong(db: Db, { placeId, path }: FolderRow, to: string): Promise<void> {
  const { rows } = await sql<{
    path: string;
  }>`select path from folder where place_id = ${placeId}::uuid
    and starts_with(path, ${`${path}/`}) order by length(path) desc limit 1`.execute(db);
  const longest = rows[0] ? to + rows[0].path.slice(path.length) : to;
  const problem = pathProblem(longest);
  if (problem) throw new ArchiveError('name-refused', `“${longest}”: ${problem}.`);
}

async function startMove(
  db: Db,
  actorId: string | null,
  move: FolderMove,
  summary: string,
  undoes: string | null = null,
): Promise<string> {
  const spot = (path: string) => ({ placeId: move.placeId, path });
  const operation = await note(
    db,
    actorId,
    { summary, state: 'doing', undoes },
    { before: spot(move.from), after: spot(move.to) },
  );
  await carryOut(db, operation, move);
  return operation;
}

interface ToldFolder {
  placeId: string;
  path: string;
}
const rootOf = async (db: Db, placeId: string) =>
  db
    .selectFrom('place')
    .select(['root', 'name', 'handsOff'])
    .where('id', '=', placeId)
    .executeTakeFirstOrThrow();

/** Put a folder back to where a step found it. @throws ArchiveError conflict where it is not there any more */
export async function moveFolderBack(
  db: Db,
  actorId: string | null,
  { before, after }: { before: ToldFolder; after: ToldFolder },
  { undoes, summary }: { undoes: string; summary: string },
): Promise<string> {
  const { root, name, handsOff } = await rootOf(db, after.placeId);
  refuseHandsOff({ place: name, handsOff });
  if (!(await isFolder(joinPath(root, after.path))))
    throw new ArchiveError(
      'conflict',
      `“${splitPath(after.path).name}” is not there any more. Undo the later change first.`,
    );
  const move = { placeId: after.placeId, root, from: after.path, to: before.path };
  return startMove(db, actorId, move, `Undid: ${summary}`, undoes);
}

/** At start: folders whose move a crash cut off. The disk decides: what was moved there is moved here too. */
export async function resumeFolders(db: Db): Promise<void> {
  const cut = await db
    .selectFrom('operation as o')
    .innerJoin('operationStep as s', 's.operationId', 'o.id')
    .select(['o.id', 's.before', 's.after'])
    .where('o.kind', '=', 'folders')
    .where('o.state', '=', 'doing')
    .execute();
  for (const { id, before, after } of cut) {
    const { placeId, path: to } = after as unknown as ToldFolder;
    const { path: from } = before as unknown as ToldFolder;
    const { root } = await rootOf(db, placeId);
    const isMoved = (await isFolder(joinPath(root, to))) && !(await isFolder(joinPath(root, from)));
    if (isMoved)
      await db
        .transaction()
        .execute((transaction) => storePaths(transaction, { placeId, root, from, to }, id));
    else await fail(db, id, 'The work ended before the folder was moved.');
  }
}
