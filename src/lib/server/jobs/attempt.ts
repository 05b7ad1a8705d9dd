import { ArchiveError, sentenceOf } from '#core/errors';
import type { Database } from '../db/schema';
import type { House } from '../house/house';
import { notify } from '../live/notify';
import { giveUpOperation } from './queue';
import { taskNamed } from './tasks';
import { sql, type Selectable } from 'kysely';
import { acrossPauses } from '../house/pauses';
import { isLate } from '../tools/run';

/** What a running task is given to report and to be stopped by. */
export interface Progress {
  /** Say how far it is; the database hears of it at most every third of a second. */
  report: (done: number, total: number, unit: string) => Promise<void>;
  /** Throws when somebody asked to pause or stop; call it between steps, never within one. */
  checkWish: () => Promise<void>;
}

export type JobRow = Selectable<Database['job']>;
export type Task = (house: House, job: JobRow, progress: Progress) => Promise<void>;

/** Thrown between steps to leave a task; not an error. */
export class Stopped extends Error {
  constructor(readonly state: 'paused' | 'cancelled') {
    super(state);
  }
}

const REPORT_EVERY_MS = 330;
/** A job that took its worker down this often without getting further is given up. */
export const MOST_ATTEMPTS = 3;
/** Whoever ends workers again and again within so short a time is somebody else. */
const LEAST_TRIED_MS = 60_000;

function progressOf(house: House, job: JobRow): Progress {
  let told = 0;
  return {
    async report(done, total, unit) {
      const now = Date.now();
      if (now - told < REPORT_EVERY_MS && done < total) return;
      told = now;
      await house.db
        .updateTable('job')
        // Who gets further is not what takes workers down.
        .set({
          ...{ done, total, unit },
          ...(done > job.done ? { attempts: 1, triedSince: house.now() } : {}),
        })
        .where('id', '=', job.id)
        .execute();
      await notify(house.db, { about: 'job', id: job.id, state: 'running' });
    },
    async checkWish() {
      const row = await house.db
        .selectFrom('job')
        .select('wish')
        .where('id', '=', job.id)
        .executeTakeFirst();
      if (!row || row.wish === 'cancel') throw new Stopped('cancelled');
      if (row.wish === 'pause') throw new Stopped('paused');
    },
  };
}

/**
 * Run one job by its id; every way it can end is written into its row. The database's own lock makes sure
 * that nobody else runs it meanwhile, and is given back by itself when this process dies.
 */
export async function runJob(
  house: House,
  tasks: Record<string, Task>,
  jobId: string,
): Promise<void> {
  const lock = await house.locks.take(`job ${jobId}`);
  if (!lock) throw new ArchiveError('conflict', 'Another worker is at this job.');
  try {
    await runLocked(house, tasks, jobId);
  } finally {
    await lock.release();
  }
}

async function runLocked(house: House, tasks: Record<string, Task>, jobId: string): Promise<void> {
  const job = await house.db
    .updateTable('job')
    .set((set) => ({
      state: 'running',
      attempts: set('attempts', '+', 1),
      startedAt: house.now(),
      triedSince: sql<Date>`case when attempts = 0 then ${house.now()}::timestamptz else coalesce(tried_since, started_at) end`,
    }))
    .where('id', '=', jobId)
    .where('state', 'in', ['waiting', 'running'])
    .returningAll()
    .executeTakeFirst();
  if (!job) return;
  const settle = async (
    state: 'done' | 'failed' | 'paused' | 'cancelled',
    reason: string | null,
  ) => {
    await house.db
      .updateTable('job')
      .set({ state, reason, ...(state === 'paused' ? {} : { finishedAt: house.now() }) })
      .where('id', '=', job.id)
      .execute();
    await giveUpOperation(house.db, job.id);
    await notify(house.db, { about: 'job', id: job.id, state });
  };
  try {
    const tried = house.now().getTime() - (job.triedSince?.getTime() ?? 0);
    if (job.attempts > MOST_ATTEMPTS && tried > LEAST_TRIED_MS)
      throw new ArchiveError(
        'tool-failed',
        'The worker ended each time it tried this; it is given up.',
      );
    const task = tasks[job.task];
    if (!task) throw new ArchiveError('unexpected', `Nobody here knows how to do “${job.task}”.`);
    const progress = progressOf(house, job);
    if (!taskNamed(job.task)?.endsInOrder) await progress.checkWish();
    await acrossPauses(() => task(house, job, progress), isLate);
    await settle('done', null);
  } catch (error) {
    if (error instanceof Stopped) return settle(error.state, null);
    house.log.error(
      { job: job.id, task: job.task, error: sentenceOf(error), stack: (error as Error).stack },
      'job failed',
    );
    const isFinal = error instanceof ArchiveError || job.attempts >= MOST_ATTEMPTS;
    if (isFinal) return settle('failed', sentenceOf(error));
    await house.db.updateTable('job').set({ state: 'waiting' }).where('id', '=', job.id).execute();
    throw error;
  }
}
