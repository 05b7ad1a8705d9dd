import { sql } from 'kysely';
import type { House } from '../house/house';
import type { JobRow, Progress } from '../jobs/attempt';
import { batches } from '../jobs/batches';
import { notifyItems } from '../live/notify';
import { refreshWords } from './records';

/** Job: the words by which the items of an operation are found. It may be run again. */
export async function findWords(house: House, job: JobRow, progress: Progress): Promise<void> {
  // Of the items themselves, or of all that lies in folders that are called otherwise now.
  const { rows } = await sql<{ id: string }>`
    select item_id as id from operation_step where operation_id = ${job.operationId}::uuid and item_id is not null
    union select f.item_id from operation_step s
      join folder d on d.place_id = (s.after ->> 'placeId')::uuid
        and (d.path = s.after ->> 'path' or starts_with(d.path, (s.after ->> 'path') || '/'))
      join file f on f.folder_id = d.id and f.role = 'original'
      where s.operation_id = ${job.operationId}::uuid and s.action = 'folder'`.execute(house.db);
  const ids = rows.map(({ id }) => id);
  let done = 0;
  for (const batch of batches(ids)) {
    await progress.checkWish();
    await refreshWords(house.db, batch);
    done += batch.length;
    await progress.report(done, ids.length, 'items');
  }
  await notifyItems(house.db, 'many', ['words']);
}
