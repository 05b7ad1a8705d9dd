import { sql } from 'kysely';
import { ArchiveError } from '#core/errors';
import type { House } from '#server/house/house';
import { withWorker } from './archive';

const LOOK_EVERY_MS = 150;

interface Counts {
  open: number;
  failed: number;
  done: number;
  all: number;
}

/** Jobs that belong to a job, itself and its children; or to items. */
async function countJobs(
  house: House,
  ids: { jobs?: string[]; items?: string[] },
): Promise<Counts> {
  const { rows } = await sql<Counts>`
    select count(*) filter (where state in ('waiting', 'running'))::int as open,
      count(*) filter (where state = 'failed')::int as failed,
      count(*) filter (where state = 'done')::int as done, count(*)::int as "all"
    from job where id = any(${ids.jobs ?? []}::uuid[]) or parent_id = any(${ids.jobs ?? []}::uuid[])
      or item_id = any(${ids.items ?? []}::uuid[])
      or (task = 'write-record' and item_id in (select e.item_id from accession_entry e
        join job j on j.accession_id = e.accession_id where j.id = any(${ids.jobs ?? []}::uuid[])))
      or (task = 'write-records' and operation_id in (select s.operation_id from operation_step s
        where s.item_id = any(${ids.items ?? []}::uuid[])))`.execute(house.db);
  return rows[0]!;
}

/** Wait until no such job waits or runs; on a terminal, say how far it is. */
export async function waitForJobs(
  house: House,
  ids: { jobs?: string[]; items?: string[] },
  label: string,
): Promise<Counts> {
  const shows = process.stderr.isTTY;
  for (;;) {
    const counts = await countJobs(house, ids);
    if (shows) process.stderr.write(`\r\u001b[K${label}: ${counts.done} of ${counts.all} steps`);
    if (counts.open === 0) {
      if (shows) process.stderr.write('\r\u001b[K');
      return counts;
    }
    await new Promise((resolve) => setTimeout(resolve, LOOK_EVERY_MS));
  }
}

const STOPPED = {
  paused: 'Somebody paused this; it goes on from Underway.',
  cancelled: 'Somebody stopped this; what was done can be undone.',
};

/** Carry out the jobs of an operation here, and wait until they are done. @throws ArchiveError conflict where it was stopped */
export async function operationDone(
  house: House,
  operationId: string,
  label: string,
): Promise<void> {
  const jobs = house.db.selectFrom('job').where('operationId', '=', operationId);
  const ids = (await jobs.select('id').execute()).map(({ id }) => id);
  if (ids.length === 0) return;
  await withWorker(house, () => waitForJobs(house, { jobs: ids }, label));
  for (const { state } of await jobs.where('id', 'in', ids).select('state').execute())
    if (state === 'paused' || state === 'cancelled')
      throw new ArchiveError('conflict', STOPPED[state]);
}
