import { sql, type Transaction } from 'kysely';
import pMap from 'p-map';
import { ArchiveError } from '#core/errors';
import type { Database } from '../db/schema';
import type { FileRole } from '#core/holdings/roles';
import { layCopy, takeCopyAway } from '../files/copies';
import { factsOf, temporaryName } from '../files/disk';
import { Disks } from '../files/disks';
import { refuseHandsOff, spotPath, type Spot } from '../files/door';
import { joinPath, pathOf } from '../files/paths';
import { insertFile, takeNames } from '../files/rows';
import type { House } from '../house/house';
import { notifyItems } from '../live/notify';
import { ensureFolder } from '../places/folderRows';
import { presentPlace, type Places } from './ground';
import { groupsOf, markFailed } from './steps';
import type { Stopping } from './stopping';

/** A copy as a step of the ledger tells it; of one that was laid also what was copied. */
export interface ToldCopy {
  placeId: string;
  folder: string;
  name: string;
  /** Of the file that the copy is. */
  copyId: string;
  contentHash?: string;
}

interface CopyStep {
  operationId: string;
  position: number;
  action: 'copy' | 'uncopy';
  isFirst: boolean;
  copy: ToldCopy;
  itemId: string;
  role: FileRole;
  /** The file that is copied, as its row says. */
  source: {
    placeId: string;
    folder: string;
    name: string;
    contentHash: string;
    essenceHash: string | null;
    pictureKey: string;
    state: string;
  };
}

/** Copies that are to be laid or taken away, of each item the original first. */
async function openCopies(house: House, operationId: string): Promise<CopyStep[]> {
  const rows = await house.db
    .selectFrom('operationStep as s')
    .innerJoin('file as f', 'f.id', 's.fileId')
    .innerJoin('folder as d', 'd.id', 'f.folderId')
    .select(['s.operationId', 's.position', 's.action', 's.state as at', 's.before', 's.after'])
    .select(['f.itemId', 'f.role', 'f.placeId', 'd.path as folder', 'f.name', 'f.state'])
    .select(['f.contentHash', 'f.essenceHash', 'f.pictureKey'])
    .where('s.operationId', '=', operationId)
    .where('s.action', 'in', ['copy', 'uncopy'])
    .where('s.state', 'in', ['planned', 'doing'])
    .orderBy('s.position')
    .execute();
  return rows.map(({ position, action, at, before, after, itemId, role, ...source }) => ({
    operationId,
    position,
    itemId,
    role,
    source,
    isFirst: at === 'planned',
    action: action as 'copy' | 'uncopy',
    copy: (action === 'copy' ? after : before) as unknown as ToldCopy,
  }));
}

const spotOf = (places: Places, { placeId, folder, name }: ToldCopy): Spot => ({
  placeId,
  folder,
  name,
  root: presentPlace(places, placeId).root,
});
const temporaryOf = ({ operationId, position }: CopyStep): string =>
  temporaryName(`${operationId}-${position}`);

/** The step is done: what came of it is noted in the same transaction. */
const markDone = (db: Transaction<Database>, step: CopyStep, contentHash: string) =>
  sql`update operation_step set state = 'done', ${sql.ref(step.action === 'copy' ? 'after' : 'before')}
      = ${JSON.stringify({ ...step.copy, contentHash })}::jsonb
    where operation_id = ${step.operationId} and position = ${step.position}`.execute(db);

async function lay(house: House, step: CopyStep, places: Places, disks: Disks): Promise<void> {
  const { copy, source, itemId } = step;
  const to = spotOf(places, copy);
  refuseHandsOff(presentPlace(places, copy.placeId));
  const { root } = presentPlace(places, source.placeId);
  const { isFirst } = step;
  const contentHash = await layCopy(
    pathOf({ root }, source.folder, source.name),
    { to, temporary: temporaryOf(step), isFirst },
    disks,
  );
  const facts = await factsOf(spotPath(to));
  if (!facts) throw new ArchiveError('not-found', `“${copy.name}” is not there any more.`);
  const isSame = contentHash === source.contentHash;
  await house.db.transaction().execute(async (db) => {
    const known = await db.selectFrom('file').select('id').where('id', '=', copy.copyId).execute();
    const folderId = await ensureFolder(db, copy.placeId, copy.folder);
    await takeNames(db, [{ folderId, name: copy.name }], [copy.copyId]);
    if (known.length === 0)
      await insertFile(
        db,
        {
          id: copy.copyId,
          itemId,
          placeId: copy.placeId,
          name: copy.name,
          contentHash,
          folderId,
          role: step.role === 'original' ? 'second-copy' : 'beside-copy',
          ...(isSame ? { essenceHash: source.essenceHash, pictureKey: source.pictureKey } : {}),
        },
        facts,
      );
    await markDone(db, step, contentHash);
  });
}

async function take(house: House, step: CopyStep, places: Places, disks: Disks): Promise<void> {
  const { copy, source } = step;
  const to = spotOf(places, copy);
  refuseHandsOff(presentPlace(places, copy.placeId));
  const { root } = presentPlace(places, source.placeId);
  if (!(await factsOf(pathOf({ root }, source.folder, source.name))))
    throw new ArchiveError('conflict', `“${source.name}” itself is missing; its copy stays.`);
  const row = await house.db
    .selectFrom('file as f')
    .innerJoin('folder as d', 'd.id', 'f.folderId')
    .select(['f.placeId', 'f.name', 'd.path as folder'])
    .where('f.id', '=', copy.copyId)
    .executeTakeFirst();
  if (!row) throw new ArchiveError('not-found', 'The archive does not know this copy any more.');
  const path = joinPath(row.folder, row.name);
  if (row.placeId !== copy.placeId || path !== joinPath(copy.folder, copy.name))
    throw new ArchiveError('conflict', `The copy is “${path}” by now.`);
  const contentHash = copy.contentHash!;
  const { isFirst } = step;
  await takeCopyAway({ to, temporary: temporaryOf(step), isFirst }, contentHash, disks);
  await house.db.transaction().execute(async (db) => {
    // Steps that once renamed it can be taken back no more: there is nothing left to rename.
    await db
      .updateTable('operationStep')
      .set({ fileId: null })
      .where('itemId', '=', step.itemId)
      .where('fileId', '=', copy.copyId)
      .execute();
    await db.deleteFrom('file').where('id', '=', copy.copyId).execute();
    await markDone(db, step, contentHash);
  });
}

/** What belongs to a file is not copied without it. */
const ALONE = {
  copy: 'The file it belongs to was not copied.',
  uncopy: 'The copy it belongs to stays.',
};

const setState = (
  { db }: House,
  operationId: string,
  positions: number[],
  state: 'planned' | 'doing',
): Promise<unknown> =>
  db
    .updateTable('operationStep')
    .set({ state })
    .where('operationId', '=', operationId)
    .where('position', '=', sql<number>`any(${positions}::int[])`)
    .execute();

/** Copies that were settled before it was paused, or cut off. */
async function doneBefore({ db }: House, operationId: string): Promise<number> {
  const { count } = await db
    .selectFrom('operationStep')
    .select(sql<number>`count(*)::int`.as('count'))
    .where('operationId', '=', operationId)
    .where('action', 'in', ['copy', 'uncopy'])
    .where('state', 'in', ['done', 'failed'])
    .executeTakeFirstOrThrow();
  return count;
}

/** Items at once: most of the time is spent waiting for the disk. */
const AT_ONCE = 4;

/**
 * Copies of an operation, laid or taken away; those of one item one after the other, and where its original is not
 * copied nothing of it is.
 */
export async function settleCopies(
  house: House,
  operationId: string,
  places: Places,
  stopping: Stopping,
): Promise<void> {
  const open = await openCopies(house, operationId);
  if (open.length === 0) return;
  const done = await doneBefore(house, operationId);
  await setState(
    house,
    operationId,
    open.map(({ position }) => position),
    'doing',
  );
  const byItem = groupsOf(open);
  const disks = new Disks(places.values());
  let count = 0;
  const left: number[] = [];
  const settle = async (steps: CopyStep[]): Promise<void> => {
    // What was begun and cut off is settled in any case.
    if ((await stopping.isWished()) && steps.every(({ isFirst }) => isFirst)) {
      left.push(...steps.map(({ position }) => position));
      return;
    }
    let isLeft = false;
    for (const step of steps)
      try {
        if (isLeft) throw new ArchiveError('conflict', ALONE[step.action]);
        await (step.action === 'copy' ? lay : take)(house, step, places, disks);
      } catch (error) {
        isLeft = step.role === 'original';
        await markFailed(house.db, step, error);
      }
    count += steps.length;
    await stopping.progress.report(done + count, done + open.length, 'files');
  };
  await pMap(byItem, settle, { concurrency: AT_ONCE });
  await setState(house, operationId, left, 'planned');
  await notifyItems(
    house.db,
    byItem.map(([{ itemId }]) => itemId),
    ['copies'],
  );
}
