import { AsyncLocalStorage } from 'node:async_hooks';
import type { Progress } from './attempt';

const running = new AsyncLocalStorage<Progress>();

/** Run something that reports how far it is, wherever it is called from. */
export const reporting = <T>(progress: Progress, run: () => Promise<T>): Promise<T> =>
  running.run(progress, run);

/**
 * How far a long change is. Of a job it is told to whoever looks, and the job heeds a wish to stop; elsewhere nothing
 * happens.
 * @throws Stopped
 */
export async function howFar(done: number, total: number, unit = 'items'): Promise<void> {
  const progress = running.getStore();
  if (!progress) return;
  await progress.report(done, total, unit);
  await progress.checkWish();
}
