import type { House } from '../house/house';
import type { JobRow, Progress } from '../jobs/attempt';
import { batches } from '../jobs/batches';
import { notify } from '../live/notify';
import { refreshWords } from './records';

/** Job: the words by which the items of an operation are found. It may be run again. */
export async function findWords(house: House, job: JobRow, progress: Progress): Promise<void> {
  const rows = await house.db
    .selectFrom('operationStep')
    .select('itemId')
    .distinct()
    .where('operationId', '=', job.operationId!)
    .where('itemId', 'is not', null)
    .execute();
  const ids = rows.map(({ itemId }) => itemId!);
  let done = 0;
  for (const batch of batches(ids)) {
    await progress.checkWish();
    await refreshWords(house.db, batch);
    done += batch.length;
    await progress.report(done, ids.length, 'items');
  }
  await notify(house.db, { about: 'items', ids: [] });
}
