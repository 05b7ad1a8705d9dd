import pMap from 'p-map';
import { sentenceOf } from '#core/errors';
import type { House } from '../house/house';
import type { Progress } from './attempt';

const BATCH = 200;
/** Rows in one statement. */
const ROWS = 1000;

/** A list in parts that one statement takes. */
export const batches = <T>(list: T[]): T[][] =>
  Array.from({ length: Math.ceil(list.length / ROWS) }, (_, at) =>
    list.slice(at * ROWS, (at + 1) * ROWS),
  );

/**
 * Go through very many items by their ids, some at once; one that cannot be done keeps none from it. Heeds pause and
 * cancel between batches.
 */
export async function throughItems(
  house: House,
  progress: Progress,
  wish: {
    total: number;
    atOnce: number;
    /** What is said of one that cannot be done. */
    failed: string;
    /** Ids after one, in order; null: the first ones. */
    next: (after: string | null, limit: number) => Promise<{ id: string }[]>;
    act: (id: string) => Promise<void>;
  },
): Promise<void> {
  const { total, atOnce, failed, next, act } = wish;
  let [done, last]: [number, string | null] = [0, null];
  for (;;) {
    const batch = await next(last, BATCH);
    if (batch.length === 0) return;
    await pMap(
      batch,
      ({ id }) =>
        act(id).catch((error: unknown) =>
          house.log.warn({ item: id, error: sentenceOf(error) }, failed),
        ),
      { concurrency: atOnce },
    );
    done += batch.length;
    last = batch.at(-1)!.id;
    await progress.report(done, total, 'items');
    await progress.checkWish();
  }
}
