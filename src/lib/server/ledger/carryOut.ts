import type { Updateable } from 'kysely';
import { ArchiveError } from '#core/errors';
import type { Database } from '../db/schema';
import { recoverRewrite } from '../files/door';
import { filesOf } from '../files/located';
import type { House } from '../house/house';
import { isAlive } from '../house/processes';
import { MOST_ATTEMPTS, Stopped, type JobRow, type Progress } from '../jobs/attempt';
import { enqueue } from '../jobs/queue';
import { resumeFolders } from '../places/folders';
import { settleCopies } from './copies';
import { groundOf } from './ground';
import { failStep, Moving, openSteps } from './moving';
import { settleFolders } from './settleFolders';
import { Stopping } from './stopping';
import { Storing, type Moved } from './storing';

/**
 * Job: carry out the steps of a rename or a move. Killed and run again, it goes on where it stopped; paused or stopped,
 * every file has its old name or its new one, and all of it is told.
 */
export async function runOperation(house: House, job: JobRow, progress: Progress): Promise<void> {
  try {
    await carryOut(house, job, progress);
  } catch (error) {
    // Who paused or stopped it left it in order; what may be tried again is.
    const isFinal = error instanceof ArchiveError || job.attempts >= MOST_ATTEMPTS;
    if (isFinal && !(error instanceof Stopped)) await giveUp(house, job.operationId!, error);
    throw error;
  }
}

/** Whatever throws ends an operation: what is half done goes back, and each step says why it was not done. */
async function giveUp(house: House, operationId: string, error: unknown): Promise<void> {
  const places = await groundOf(house.db);
  for (const step of await openSteps(house, operationId, places))
    await failStep(house, step, error);
  const done = await house.db
    .selectFrom('operationStep')
    .select('position')
    .where('operationId', '=', operationId)
    .where('state', '=', 'done')
    .executeTakeFirst();
  await setOperation(house, operationId, {
    state: done ? 'done' : 'failed',
    begun: 0,
    finishedAt: house.now(),
  });
}

async function carryOut(house: House, job: JobRow, progress: Progress): Promise<void> {
  const operationId = job.operationId!;
  const by = { actorId: job.createdBy, operationId };
  const places = await groundOf(house.db);
  const steps = await openSteps(house, operationId, places);
  await setOperation(house, operationId, { state: 'doing' });
  const stopping = new Stopping(progress);
  const moving = new Moving(house, places, steps);
  const total = job.total || steps.length;
  let count = total - steps.length;
  // Of copies and folders alone others tell how far they are.
  const report = async (): Promise<void> =>
    steps.length > 0 ? progress.report(count, total, 'names') : undefined;
  const tell = async (settled: readonly Moved[]): Promise<void> => {
    count += settled.length;
    // That all have gone is told once they last.
    if (count < total) await report();
  };
  const store = (run: (storing: Storing) => Promise<void>): Promise<void> =>
    house.db.transaction().execute((db) => run(new Storing(house, db, by)));
  if (moving.isAway) {
    // Copies to another disk may take hours: what lies there is told soon, and nobody is kept waiting for rows.
    for await (const settled of moving.carryOut(stopping)) {
      await moving.sync();
      await store(async (storing) => {
        await storing.names(settled);
        await storing.finish();
      });
      await tell(settled);
    }
    await report();
    await store(async (storing) => {
      await storing.names(moving.apart);
      await storing.finish();
    });
  } else
    await store(async (storing) => {
      let stored: Promise<void> = Promise.resolve();
      for await (const settled of moving.carryOut(stopping)) {
        stored = stored.then(() => storing.names(settled));
        // What goes wrong there is heard below.
        stored.catch(() => undefined);
        await tell(settled);
      }
      await moving.sync();
      await report();
      await stored;
      await storing.names(moving.apart);
      await storing.finish();
    });
  await settleCopies(house, operationId, places, stopping);
  if (stopping.wished === null || stopping.wished.state === 'cancelled')
    await settleFolders(house, operationId, places);
  if (stopping.wished !== null) {
    // Nothing is half done: whoever goes on later begins with the rest.
    await setOperation(house, operationId, { begun: 0 });
    throw stopping.wished;
  }
  await setOperation(house, operationId, { state: 'done', finishedAt: house.now() });
}

const setOperation = (
  { db }: House,
  id: string,
  values: Updateable<Database['operation']>,
): Promise<unknown> => db.updateTable('operation').set(values).where('id', '=', id).execute();

/** Whether the worker that began a rewrite still lives; on another host nobody here can tell, so it does. */
function isAtWork(begun: Record<string, unknown>, hostname: string): boolean {
  return begun['host'] !== hostname || isAlive(Number(begun['pid']));
}

/** At start: settle rewrites and folders a crash cut off, and put unfinished renames and moves back into the queue. */
export async function resumeOperations(house: House): Promise<void> {
  await resumeFolders(house.db);
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
    .where('o.kind', 'in', ['rename', 'filing', 'waste'])
    .where('o.state', 'in', ['planned', 'doing'])
    .where((where) =>
      where.not(
        where.exists(
          where
            .selectFrom('job as j')
            .select('j.id')
            .whereRef('j.operationId', '=', 'o.id')
            .where('j.state', 'in', ['waiting', 'running', 'paused']),
        ),
      ),
    )
    .execute();
  await enqueue(
    house.db,
    renames.map(({ id, total }) => ({
      task: 'operation',
      title: 'Going on with names and folders',
      subject: id,
      operationId: id,
      total,
      unit: 'names',
    })),
  );
}
