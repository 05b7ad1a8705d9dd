import { EventEmitter } from 'node:events';
import { makeWorkerUtils, run, type WorkerEvents } from 'graphile-worker';
import { sql } from 'kysely';
import sharp from 'sharp';
import { resumeOperations } from '../ledger/carryOut';
import { pruneChangeLog } from '../index/serve';
import type { House } from '../house/house';
import { isAlive } from '../house/processes';
import { newId } from '../house/ids';
import { requeueLost } from '../jobs/queue';
import { endApart } from '../apart/apart';
import { endExiftool, endOrphans } from '../metadata/exiftool';
import { enqueueReadAgain } from '../watching/readAgain';
import { trimCache } from '../renditions/cache';
import { emptyOld } from '../wastebasket/wastebasket';
import { startWatching } from '../watching/watch';
import { runJob } from '../jobs/attempt';
import { TASK_NAMES, TASKS, type TaskKind } from '../jobs/tasks';
import { DEAD_AFTER_S, queueLogger } from './queue';
import { RUNS } from './tasks';

const BEAT_MS = 2000;
/** Give back the jobs of workers that died; their jobs run again. */
async function releaseDead(house: House): Promise<void> {
  const workers = await house.db.selectFrom('worker').selectAll().execute();
  const now = house.now().getTime();
  const dead = workers.filter((worker) =>
    worker.host === house.settings.hostname
      ? !isAlive(worker.pid)
      : now - worker.seenAt.getTime() > DEAD_AFTER_S * 1000,
  );
  const known = workers
    .filter((worker) => !dead.includes(worker))
    .flatMap((worker) => worker.locks);
  const { rows } = await sql<{ lockedBy: string }>`
    select distinct locked_by from graphile_worker.jobs
    where locked_by is not null and locked_at < now() - interval '3 seconds'`.execute(house.db);
  const lost = [
    ...dead.flatMap((worker) => worker.locks),
    ...rows.map((row) => row.lockedBy).filter((id) => !known.includes(id)),
  ];
  if (lost.length > 0) {
    const utils = await makeWorkerUtils({ pgPool: house.pool, logger: queueLogger(house) });
    await utils.forceUnlockWorkers([...new Set(lost)]);
    await utils.release();
  }
  if (dead.length > 0)
    await house.db
      .deleteFrom('worker')
      .where(
        'id',
        'in',
        dead.map(({ id }) => id),
      )
      .execute();
}

/** Jobs that ended are of no use to anyone after this; what they did stands in the ledger. */
const KEPT_DAYS = 14;
const PRUNE_EVERY_MS = 3_600_000;
const PRUNED_AT_ONCE = 5000;

/** Forget jobs that ended long ago; that of an accession stays, for what failed in it may be tried again. */
export async function pruneJobs(house: House): Promise<void> {
  for (;;) {
    const { rows } = await sql`delete from job where id in (
      select j.id from job j
      where j.task <> 'intake' and j.state in ('done', 'cancelled', 'failed') and j.finished_at < now() - make_interval(days => ${KEPT_DAYS})
        and not exists (select from job c where c.parent_id = j.id and c.state in ('waiting', 'running', 'paused'))
      limit ${PRUNED_AT_ONCE}) returning id`.execute(house.db);
    if (rows.length < PRUNED_AT_ONCE) return;
  }
}

export interface Worker {
  stop: () => Promise<void>;
}

/** Start taking jobs in this process until `stop`. Unfinished operations are taken up first. */
export async function startWorker(house: House): Promise<Worker> {
  sharp.concurrency(1);
  sharp.cache(false);
  await endOrphans().catch(() => undefined);
  await resumeOperations(house);
  await requeueLost(house.db);
  const id = newId();
  const locks = new Set<string>();
  const beat = async (): Promise<void> => {
    const seen = { locks: [...locks], seenAt: house.now() };
    await house.db
      .insertInto('worker')
      .values({ id, host: house.settings.hostname, pid: process.pid, ...seen })
      .onConflict((conflict) => conflict.column('id').doUpdateSet(seen))
      .execute();
    await releaseDead(house);
  };
  const events = new EventEmitter() as WorkerEvents;
  // Without a queue of its own, a pool's jobs are locked in the name of the pool.
  events.on('pool:create', ({ workerPool }) => locks.add(workerPool.id));
  const lane = (tasks: string[], concurrency: number) =>
    run({
      pgPool: house.pool,
      concurrency,
      noHandleSignals: true,
      pollInterval: 1000,
      events,
      logger: queueLogger(house),
      taskList: Object.fromEntries(
        tasks.map((task) => [
          task,
          (payload: unknown) => runJob(house, RUNS, (payload as { jobId: string }).jobId),
        ]),
      ),
    });
  const inLane = (wished: TaskKind['lane']): string[] =>
    TASK_NAMES.filter((name) => TASKS[name].lane === wished);
  const runners = [
    await lane(inLane(undefined), house.settings.workers),
    await lane(inLane('watching'), 1),
    await lane(inLane('deeds'), 1),
  ];
  await beat();
  const every = (milliseconds: number, what: string, act: () => Promise<void>) =>
    setInterval(
      () =>
        void act().catch((error: unknown) =>
          house.log.warn({ error: String(error) }, `${what} failed`),
        ),
      milliseconds,
    );
  const timers = [
    every(BEAT_MS, 'heartbeat', beat),
    every(PRUNE_EVERY_MS, 'pruning', async () => {
      await pruneJobs(house);
      await pruneChangeLog(house);
      await trimCache(house, house.settings.cacheLimit);
      await emptyOld(house, house.settings.wasteDays);
    }),
  ];
  await enqueueReadAgain(house);
  const watching = startWatching(house);
  return {
    async stop() {
      timers.forEach(clearInterval);
      await watching.stop();
      await Promise.all(runners.map((runner) => runner.stop()));
      await house.db.deleteFrom('worker').where('id', '=', id).execute();
      await endExiftool();
      await endApart();
    },
  };
}
