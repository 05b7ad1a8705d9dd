import { Logger as QueueLogger, runMigrations } from 'graphile-worker';
import type { House } from '../house/house';

/** What others know of workers without loading what they do. */
/** A worker of another host that has not been seen for this long is dead. */
export const DEAD_AFTER_S = 15;

/** What the queue tells goes into our log. */
export function queueLogger(house: House): QueueLogger {
  return new QueueLogger(() => (level, message) => {
    if (level === 'error') house.log.error({ part: 'queue' }, message);
    else if (level === 'warning') house.log.warn({ part: 'queue' }, message);
  });
}

/** The queue's own tables. */
export async function migrateQueue(house: House): Promise<void> {
  await runMigrations({ pgPool: house.pool, logger: queueLogger(house) });
}

/** Whether some worker was seen lately. */
export async function workerSeen(house: House): Promise<boolean> {
  const row = await house.db
    .selectFrom('worker')
    .select('id')
    .where('seenAt', '>', new Date(house.now().getTime() - DEAD_AFTER_S * 1000))
    .executeTakeFirst();
  return row !== undefined;
}
