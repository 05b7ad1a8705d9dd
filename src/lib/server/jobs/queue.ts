import { sql, type Kysely, type Transaction } from 'kysely';
import { ArchiveError } from '#core/errors';
import { can } from '#core/people/roles';
import { fromPlaces } from '#core/text/paths';
import type { Actor } from '../auth/people';
import type { Database } from '../db/schema';
import type { JobState } from '#core/live/messages';
import { wholly } from '../db/wholly';
import { newId } from '../house/ids';
import { placeRoots } from '../files/located';
import { notify } from '../live/notify';
import { seenBy } from '../sight/seen';
import { TASK_NAMES, taskNamed, TASKS, type TaskName } from './tasks';

export interface NewJob {
  task: TaskName;
  /** In words, for Underway. */
  title: string;
  /** What it is about; while one waits, a second of the same task and subject is not added. */
  subject: string;
  parentId?: string | null;
  itemId?: string | null;
  accessionId?: string | null;
  operationId?: string | null;
  createdBy?: string | null;
  total?: number;
  unit?: string;
}

/** An operation `o` of which some step may be half done. */
const halfDone = sql<boolean>`(o.state in ('planned', 'doing') and (o.begun > 0
  or exists (select from operation_step s where s.operation_id = o.id and s.state = 'doing')))`;

type Db = Kysely<Database> | Transaction<Database>;

async function addToQueue(db: Db, task: TaskName, id: string): Promise<void> {
  await sql`select graphile_worker.add_job(
    ${task}, payload := json_build_object('jobId', ${id}::text), queue_name := ${TASKS[task].queue ?? null},
    max_attempts := 25, job_key := ${id}, priority := ${TASKS[task].priority}::int)`.execute(db);
}

/** Add work, in the caller's transaction where it has one. Returns the ids of those that are new. */
export async function enqueue(db: Db, jobs: NewJob[]): Promise<string[]> {
  if (jobs.length === 0) return [];
  const rows = jobs.map((job) => ({
    id: newId(),
    task: job.task,
    title: job.title,
    subject: job.subject,
    parentId: job.parentId ?? null,
    itemId: job.itemId ?? null,
    accessionId: job.accessionId ?? null,
    operationId: job.operationId ?? null,
    createdBy: job.createdBy ?? null,
    total: job.total ?? 0,
    unit: job.unit ?? '',
  }));
  // A job and its place in the queue come together or not at all: one alone would wait for ever.
  return wholly(db, async (whole) => {
    const added = await whole
      .insertInto('job')
      .values(rows)
      .onConflict((conflict) => conflict.doNothing())
      .returning(['id', 'task'])
      .execute();
    for (const { id, task } of added) await addToQueue(whole, task as TaskName, id);
    if (added[0]) await notify(whole, { about: 'job', id: added[0].id, state: 'waiting' });
    return added.map(({ id }) => id);
  });
}

/** Put a job that stopped back into the queue. */
export async function requeue(db: Db, id: string): Promise<void> {
  await wholly(db, async (whole) => {
    const job = await whole
      .updateTable('job')
      .set({ state: 'waiting', wish: 'run', attempts: 0, reason: null, finishedAt: null })
      .where('id', '=', id)
      .where('state', 'in', ['paused', 'failed', 'cancelled'])
      .returning('task')
      .executeTakeFirst();
    if (!job) return;
    await addToQueue(whole, job.task as TaskName, id);
    await notify(whole, { about: 'job', id, state: 'waiting' });
  });
}

/** Jobs that wait without a place in the queue get one: a database restored from a copy may hold some. */
export async function requeueLost(db: Kysely<Database>): Promise<void> {
  const { rows } = await sql<{ id: string; task: TaskName }>`
    select j.id, j.task from job j
    where j.state = 'waiting' and not exists (
      select from graphile_worker._private_jobs q where q.key = j.id::text)`.execute(db);
  for (const { id, task } of rows) await addToQueue(db, task, id);
}

/**
 * Ask a job to pause, go on or stop. A waiting job obeys at once, a running one at its next step.
 * @throws ArchiveError not-found; not-allowed where it is the work of somebody else
 */
export async function wishJob(
  db: Kysely<Database>,
  actor: Pick<Actor, 'id' | 'role'>,
  id: string,
  wish: 'run' | 'pause' | 'cancel',
): Promise<void> {
  const job = await db
    .selectFrom('job')
    .select(['id', 'task', 'createdBy'])
    .where('id', '=', id)
    .executeTakeFirst();
  if (!job) throw new ArchiveError('not-found', 'This work is not in the list any more.');
  if (job.createdBy !== actor.id && !can(actor.role, 'manage'))
    throw new ArchiveError(
      'not-allowed',
      'This is the work of somebody else; they or a keeper can stop it and let it go on.',
    );
  if (wish === 'run') return requeue(db, id);
  if (!taskNamed(job.task)?.stoppable)
    throw new ArchiveError('conflict', 'This work runs to its end; the ledger can undo it.');
  await db
    .updateTable('job')
    .set({ wish })
    .where('state', 'in', ['waiting', 'running', 'paused'])
    .where((where) => where.or([where('id', '=', id), where('parentId', '=', id)]))
    .execute();
  const settled: JobState = wish === 'pause' ? 'paused' : 'cancelled';
  await db
    .updateTable('job')
    .set({ state: settled, ...(wish === 'cancel' ? { finishedAt: new Date() } : {}) })
    .where('state', 'in', wish === 'pause' ? ['waiting'] : ['waiting', 'paused'])
    .where((where) => where.or([where('id', '=', id), where('parentId', '=', id)]))
    .where(
      sql<boolean>`not exists (select from operation o where o.id = job.operation_id and ${halfDone})`,
    )
    .execute();
  if (wish === 'pause' || wish === 'cancel') await settleAccession(db, id, settled);
  if (wish === 'cancel') await giveUpOperation(db, id);
  await notify(db, { about: 'job', id, state: settled });
}

/**
 * The operation of a job that will not run again. Without steps nothing of it was done, nor will be; of one that was
 * stopped between its steps the rest stays as it was, and what was done can be undone.
 */
export async function giveUpOperation(db: Kysely<Database>, jobId: string): Promise<void> {
  await sql`with given_up as (
      update operation o set finished_at = now(), state = case
          when exists (select from operation_step s where s.operation_id = o.id and s.state = 'done') then 'done' else 'failed' end
      from job j where j.id = ${jobId} and j.operation_id = o.id and o.state in ('planned', 'doing')
        and (j.state = 'cancelled' and not ${halfDone}
          or j.state in ('cancelled', 'failed')
            and not exists (select from operation_step s where s.operation_id = o.id))
      returning o.id)
    update operation_step s set state = 'failed', reason = 'It was stopped before this was done.'
    from given_up where s.operation_id = given_up.id and s.state in ('planned', 'doing')`.execute(
    db,
  );
}

/** An accession whose job will not run again says so itself. */
async function settleAccession(
  db: Kysely<Database>,
  jobId: string,
  state: JobState,
): Promise<void> {
  await db
    .updateTable('accession')
    .set({ state: state === 'paused' ? 'paused' : 'cancelled' })
    .where('state', 'in', ['planned', 'running', 'paused'])
    .where('id', 'in', (query) =>
      query
        .selectFrom('job')
        .select('accessionId')
        .where('id', '=', jobId)
        .where('state', '=', state)
        .$castTo<{ accessionId: string }>(),
    )
    .execute();
}

export interface UnderwayJob {
  id: string;
  task: string;
  title: string;
  /** Whoever looks may stop it and let it go on. */
  mine: boolean;
  /** It looks between its steps whether somebody wants it to stop. */
  stoppable: boolean;
  state: JobState;
  done: number;
  total: number;
  unit: string;
  reason: string | null;
  startedAt: Date | null;
  finishedAt: Date | null;
  /** Work that follows from it, such as pictures of an intake. */
  after: { waiting: number; done: number; failed: number };
  accessionId: string | null;
  operationId: string | null;
}

const QUIET = TASK_NAMES.filter((name) => taskNamed(name)?.isQuiet);

/** What runs, and the last that ended, newest first. */
export async function underway(
  db: Kysely<Database>,
  viewer: Pick<Actor, 'id' | 'role'>,
): Promise<UnderwayJob[]> {
  const places = await placeRoots(db);
  const words = (text: string): string => fromPlaces(text, places);
  const rows = await db
    .selectFrom('job as j')
    .leftJoinLateral(
      (from) =>
        from
          .selectFrom('job as c')
          .whereRef('c.parentId', '=', 'j.id')
          .select([
            sql<number>`count(*) filter (where c.state in ('waiting','running','paused'))::int`.as(
              'open',
            ),
            sql<number>`count(*) filter (where c.state = 'done')::int`.as('ended'),
            sql<number>`count(*) filter (where c.state = 'failed')::int`.as('broken'),
          ])
          .as('child'),
      (join) => join.onTrue(),
    )
    .where('j.parentId', 'is', null)
    // What is told of an item somebody may not see tells of the item.
    .where(
      sql<boolean>`(j.item_id is null or exists (select from item i where i.id = j.item_id and ${seenBy(viewer, 'list', 'i')}))`,
    )
    .where((where) =>
      where.or([
        where('j.state', 'in', ['waiting', 'running', 'paused']),
        where('child.open', '>', 0),
        where('j.finishedAt', '>', sql<Date>`now() - interval '1 day'`),
      ]),
    )
    .where((where) => where.or([where('j.task', 'not in', QUIET), where('j.state', '=', 'failed')]))
    .selectAll('j')
    .select(['child.open', 'child.ended', 'child.broken'])
    .orderBy(sql`j.state in ('waiting','running','paused') or child.open > 0`, 'desc')
    .orderBy('j.createdAt', 'desc')
    .limit(40)
    .execute();
  return rows.map((row) => ({
    id: row.id,
    task: row.task,
    title: words(row.title),
    stoppable: taskNamed(row.task)?.stoppable === true,
    mine: row.createdBy === viewer.id || can(viewer.role, 'manage'),
    state: row.state,
    done: row.done,
    total: row.total,
    unit: row.unit,
    reason: row.reason && words(row.reason),
    startedAt: row.startedAt,
    finishedAt: row.finishedAt,
    after: { waiting: row.open ?? 0, done: row.ended ?? 0, failed: row.broken ?? 0 },
    accessionId: row.accessionId,
    operationId: row.operationId,
  }));
}
