import { endApart } from '#server/apart/apart';
import { migrate } from '#server/db/migrate';
import { closeHouse, openHouse, type House } from '#server/house/house';
import { readSettings } from '#server/house/settings';
import { migrateQueue, workerSeen } from '#server/work/queue';
import type { Worker } from '#server/work/worker';
import { addFirstStages } from '#server/stages/stages';
import { settleRoots } from '#server/places/places';
import { startPostgres } from './postgres';

/** The archive opened for a command: database running and up to date. */
export interface Archive {
  house: House;
  close: () => Promise<void>;
}

/** Every job holds one connection and asks by others; the queue and the watcher have theirs. */
const poolFor = (workers: number): number => Math.min(150, 2 * workers + 10);

/** Open for a command. What this call starts, `close` ends. @throws ArchiveError */
export async function openArchive(env: NodeJS.ProcessEnv = process.env): Promise<Archive> {
  const settings = readSettings({ ...env, MINDFUL_LOG: env['MINDFUL_LOG'] ?? 'warn' });
  const cluster = await startPostgres(settings);
  const house = openHouse(settings, poolFor(settings.workers));
  try {
    await migrate(house.db);
    await migrateQueue(house);
    await addFirstStages(house.db);
    await settleRoots(house);
  } catch (error) {
    await closeHouse(house).catch(() => undefined);
    await cluster.stop();
    throw error;
  }
  return {
    house,
    async close() {
      // Processes that wait for more would keep a command from ending.
      await endApart();
      await closeHouse(house);
      await cluster.stop();
    },
  };
}

/** Run with work being done: by the worker that is there, else by one in this process. */
export async function withWorker<T>(house: House, run: () => Promise<T>): Promise<T> {
  let worker: Worker | null = null;
  if (!(await workerSeen(house))) {
    // Only who does the work loads what it takes: a command that asks something need not wait for it.
    const { startWorker } = await import('#server/work/worker');
    worker = await startWorker(house);
  }
  try {
    return await run();
  } finally {
    await worker?.stop();
  }
}
