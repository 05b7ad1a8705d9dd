import { sql } from 'kysely';
import { ArchiveError, sentenceOf } from '#core/errors';
import type { House } from '../house/house';
import { isAlive } from '../house/processes';
import { factsOf, syncFolder } from '../files/disk';
import {
  parkFile,
  recoverRewrite,
  refuseHandsOff,
  renameFile,
  settleFile,
  unparkFile,
  type RenameStep,
} from '../files/door';
import { filesOf } from '../files/located';
import { joinPath } from '../files/paths';
import { enqueue } from '../jobs/queue';
import type { JobRow, Progress } from '../jobs/attempt';
import { notify } from '../live/notify';
import { refreshWords } from '../records/records';

const CHUNK = 200;

interface OpenStep extends RenameStep {
  itemId: string;
  folderId: string;
  place: string;
  handsOff: boolean;
  inode: string;
  current: string;
  state: string;
}

async function openSteps(house: House, operationId: string): Promise<OpenStep[]> {
  const rows = await house.db
    .selectFrom('operationStep as s')
    .innerJoin('file as f', 'f.id', 's.fileId')
    .innerJoin('folder as d', 'd.id', 'f.folderId')
    .innerJoin('place as p', 'p.id', 'f.placeId')
    .select([
      's.operationId',
      's.position',
      's.state',
      's.before',
      's.after',
      'f.id as fileId',
      'f.itemId',
      'f.folderId',
    ])
    .select([
      'f.inode',
      'f.name as current',
      'd.path as folder',
      'p.root',
      'p.name as place',
      'p.handsOff',
    ])
    .where('s.operationId', '=', operationId)
    .where('s.state', 'in', ['planned', 'doing'])
    .orderBy('s.position')
    .execute();
  return rows.map((row) => ({
    ...row,
    before: String(row.before['name']),
    after: String(row.after['name']),
  }));
}

async function failStep(house: House, step: OpenStep, error: unknown): Promise<void> {
  await unparkFile(step).catch((problem: unknown) =>
    house.log.error({ step: step.position, error: sentenceOf(problem) }, 'file stays parked'),
  );
  await house.db.transaction().execute(async (transaction) => {
    await transaction
      .updateTable('operationStep')
      .set({ state: 'failed', reason: sentenceOf(error) })
      .where('operationId', '=', step.operationId)
      .where('position', '=', step.position)
      .execute();
    // Another program may have renamed it meanwhile, and the row followed: only our own word is taken back.
    await transaction
      .updateTable('file')
      .set({ name: step.before })
      .where('id', '=', step.fileId)
      .where('name', '=', step.after)
      .execute();
  });
}

/** The file must be the one the step was written for. */
async function checkStep(step: OpenStep): Promise<void> {
  refuseHandsOff(step);
  const folder = joinPath(step.root, step.folder);
  const [source, target] = await Promise.all([
    factsOf(joinPath(folder, step.before)),
    factsOf(joinPath(folder, step.after)),
  ]);
  if (!source && target && String(target.ino) !== step.inode && step.state === 'planned')
    throw new ArchiveError('not-found', `“${step.before}” is not there any more.`);
  if (step.current !== step.before && step.state === 'planned')
    throw new ArchiveError('conflict', `The file is called “${step.current}” by now.`);
}

async function inChunks(
  steps: OpenStep[],
  run: (chunk: OpenStep[]) => Promise<void>,
): Promise<void> {
  for (let at = 0; at < steps.length; at += CHUNK) await run(steps.slice(at, at + CHUNK));
}

async function setDoing(house: House, steps: OpenStep[]): Promise<void> {
  await house.db
    .updateTable('operationStep')
    .set({ state: 'doing' })
    .where('operationId', '=', steps[0]!.operationId)
    .where(
      'position',
      'in',
      steps.map((step) => step.position),
    )
    .execute();
}

/** Apply one half of the steps; returns those that went well. */
async function each(
  house: House,
  steps: OpenStep[],
  act: (step: OpenStep) => Promise<void>,
): Promise<OpenStep[]> {
  const well: OpenStep[] = [];
  for (const step of steps) {
    try {
      await act(step);
      well.push(step);
    } catch (error) {
      await failStep(house, step, error);
    }
  }
  return well;
}

/** The new names, in one transaction: within it names may trade places. */
async function storeNames(house: House, steps: OpenStep[]): Promise<void> {
  if (steps.length === 0) return;
  await house.db.transaction().execute(async (transaction) => {
    await sql`update file set name = given.name
      from (select unnest(${steps.map((step) => step.fileId)}::uuid[]) as id,
        unnest(${steps.map((step) => step.after)}::text[]) as name) given
      where file.id = given.id`.execute(transaction);
    await sql`update operation_step set state = 'done' where operation_id = ${steps[0]!.operationId}
      and position = any(${steps.map((step) => step.position)}::int[])`.execute(transaction);
    const items = [...new Set(steps.map((step) => step.itemId))];
    await sql`update item set change_no = nextval('change_number') where id = any(${items}::uuid[])`.execute(
      transaction,
    );
    await refreshWords(transaction, items);
    await notify(transaction, { about: 'items', ids: items });
  });
}

/** Steps whose new name is still another one's old name; these go by way of a parked name. */
function tradesPlaces(steps: OpenStep[]): (step: OpenStep) => boolean {
  const held = new Set(steps.map((step) => `${step.folderId}/${step.before}`));
  return (step) => held.has(`${step.folderId}/${step.after}`);
}

/** A resumed step may have its file under the new name already. */
async function isSettled(step: OpenStep): Promise<boolean> {
  if (step.state !== 'doing') return false;
  const target = await factsOf(joinPath(step.root, step.folder, step.after));
  return target !== null && String(target.ino) === step.inode;
}

/** Job: carry out the steps of a rename. Killed and run again, it goes on where it stopped. */
export async function runOperation(house: House, job: JobRow, progress: Progress): Promise<void> {
  const operationId = job.operationId!;
  await house.db
    .updateTable('operation')
    .set({ state: 'doing' })
    .where('id', '=', operationId)
    .execute();
  const open = await openSteps(house, operationId);
  const total = job.total || open.length;
  const trades = tradesPlaces(open);
  const ready: OpenStep[] = [];
  await inChunks(open, async (chunk) => {
    await setDoing(house, chunk);
    const well = await each(house, chunk, async (step) => {
      await checkStep(step);
      if (trades(step) && !(await isSettled(step))) await parkFile(step);
    });
    ready.push(...well);
  });
  const settled: OpenStep[] = [];
  await inChunks(ready, async (chunk) => {
    settled.push(
      ...(await each(house, chunk, (step) => (trades(step) ? settleFile(step) : renameFile(step)))),
    );
    await progress.report(total - open.length + settled.length, total, 'names');
  });
  for (const folder of new Set(settled.map((step) => joinPath(step.root, step.folder))))
    await syncFolder(folder);
  await storeNames(house, settled);
  await house.db
    .updateTable('operation')
    .set({ state: 'done', finishedAt: house.now() })
    .where('id', '=', operationId)
    .execute();
}

/** Whether the worker that began a rewrite still lives; on another host nobody here can tell, so it does. */
function isAtWork(begun: Record<string, unknown>, hostname: string): boolean {
  return begun['host'] !== hostname || isAlive(Number(begun['pid']));
}

/** At start: settle rewrites a crash cut off, and put unfinished renames back into the queue. */
export async function resumeOperations(house: House): Promise<void> {
  const cut = await house.db
    .selectFrom('operation as o')
    .innerJoin('operationStep as s', 's.operationId', 'o.id')
    .select(['o.id', 's.fileId', 's.itemId', 's.before', 's.after'])
    .where('o.kind', '=', 'rewrite')
    .where('o.state', '=', 'doing')
    .execute();
  for (const operation of cut) {
    if (isAtWork(operation.before, house.settings.hostname)) continue;
    const files = await filesOf(house.db, [operation.itemId!]);
    const file = files.find((candidate) => candidate.id === operation.fileId);
    if (file) await recoverRewrite(house, file, operation.id, operation.after);
  }
  const renames = await house.db
    .selectFrom('operation as o')
    .select(['o.id', 'o.total'])
    .where('o.kind', '=', 'rename')
    .where('o.state', 'in', ['planned', 'doing'])
    .where((where) =>
      where.not(
        where.exists(
          where
            .selectFrom('job as j')
            .select('j.id')
            .whereRef('j.operationId', '=', 'o.id')
            .where('j.state', 'in', ['waiting', 'running']),
        ),
      ),
    )
    .execute();
  await enqueue(
    house.db,
    renames.map(({ id, total }) => ({
      task: 'operation',
      title: 'Going on with a rename',
      subject: id,
      operationId: id,
      total,
      unit: 'names',
    })),
  );
}
