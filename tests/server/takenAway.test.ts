import { execFileSync } from 'node:child_process';
import { mkdirSync, rmdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { sql } from 'kysely';
import { beforeAll, beforeEach, expect, it } from 'vitest';
import { HOUSE } from '#core/sight/viewer';
import { parseQuery } from '#core/query/grammar';
import { findIds } from '#server/catalogue/find';
import { runJob, type Task } from '#server/jobs/attempt';
import { runOperation } from '#server/ledger/carryOut';
import { linesOf } from '#server/ledger/ledger';
import { startFiling, type FilingWish } from '#server/naming/filing';
import { addPlace, type Place } from '#server/places/places';
import { startWorker } from '#server/work/worker';
import { fill } from '../../bench/compare';
import { bringIn, placeNamed, treeOf, useArchive } from '../support/archive';
import { writeJpeg } from '../support/pictures';
import { asSeen } from '#server/sight/seen';

/** A disk that is taken away while files go there: where it was mounted an empty folder is left. */
const archive = useArchive({ worker: false });
const db = () => archive.house.db;
const COUNT = 80;
let near: Place;
let far: Place;
let ids: string[] = [];
let before: Record<string, string> = {};
function mount(): void {
  execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=64m', 'tmpfs', far.root]);
  writeFileSync(join(far.root, 'label.txt'), 'a disk');
}
const takeAway = (): Buffer => execFileSync('umount', ['-l', far.root]);
/** What lies where the disk was. */
const under = (): string[] => Object.keys(treeOf(far.root));

beforeAll(async () => {
  near = await placeNamed(archive, 'Shelf');
  const folder = join(archive.folder, 'Far');
  // Folders of the same names lie under the disk: nothing but the disk itself tells them apart.
  for (let at = 0; at < 10; at += 1)
    mkdirSync(join(folder, 'Filed', String(at)), { recursive: true });
  far = await addPlace(archive.house, 'Far', folder);
  await db().updateTable('place').set({ watched: false }).execute();
  await fill(archive.house, near, COUNT);
  ids = await findIds(db(), HOUSE, parseQuery('order name'));
});
beforeEach(() => {
  mount();
  before = treeOf(near.root);
});

const file = (over: Partial<FilingWish> = {}): Promise<string> =>
  startFiling(db(), null, {
    ...{ viewer: HOUSE, itemIds: asSeen(ids), pattern: 'Filed/{number, last 1}', missing: 'leave' },
    ...{ fallback: '-', clash: 'refuse', removeEmptied: false },
    into: { placeId: far.id, path: '' },
    ...over,
  });

/** Run it as a worker does. @param act once the first files have gone */
async function run(operation: string, act: () => unknown = () => undefined): Promise<void> {
  const job = await db()
    .selectFrom('job')
    .select('id')
    .where('operationId', '=', operation)
    .executeTakeFirstOrThrow();
  let isDone = false;
  const task: Task = (house, row, progress) =>
    runOperation(house, row, {
      ...progress,
      report: (done, total, unit) => {
        if (!isDone) act();
        isDone = true;
        return progress.report(done, total, unit);
      },
    });
  await runJob(archive.house, { operation: task }, job.id);
}
const reasons = async (operation: string): Promise<string[]> => {
  const { rows } = await sql<{ reason: string }>`select distinct reason from operation_step
    where operation_id = ${operation}::uuid and state = 'failed' and action <> 'folder'`.execute(
    db(),
  );
  return rows.map(({ reason }) => reason);
};

it.each([false, true])(
  'gets no more, and nothing is laid where it was; what had not gone stays (copies: %s)',
  async (copies) => {
    const operation = await file({ copies });
    await run(operation, takeAway);
    expect(under()).toEqual([]);
    const [line] = await linesOf(db(), [operation]);
    expect(line).toMatchObject({ state: 'done' });
    expect(line!.failed).toBeGreaterThan(0);
    expect((await reasons(operation)).join(' ')).toContain('taken away');
    // What went before lies on the disk that is away: the archive says so, and asks for it there.
    const { rows } = await sql<{ name: string }>`select f.name from file f
      where f.place_id = ${far.id}::uuid and f.role = 'original'`.execute(db());
    const names = Object.keys(treeOf(near.root)).map((path) => path.split('/').at(-1)!);
    expect([...names, ...rows.map(({ name }) => name)]).toHaveLength(COUNT);
    if (copies) expect(treeOf(near.root)).toEqual(before);
    else expect(rows.length).toBeGreaterThan(0);
  },
);

it('is away where files are known and none lies: nothing is planned there, and what waits says so', async () => {
  const operation = await file({ itemIds: asSeen(ids.slice(-10)), pattern: 'Later' });
  takeAway();
  for (let at = 0; at < 10; at += 1) rmdirSync(join(far.root, 'Filed', String(at)));
  rmdirSync(join(far.root, 'Filed'));
  await run(operation);
  expect(await reasons(operation)).toEqual(['“Far” is away.']);
  expect(under()).toEqual([]);
  expect(treeOf(near.root)).toEqual(before);
  await expect(file({ itemIds: asSeen(ids.slice(-10)) })).rejects.toMatchObject({
    code: 'not-found',
    message: '“Far” is away.',
  });
});

it('is no place to bring files into while it is away', async () => {
  takeAway();
  const card = join(archive.folder, 'card');
  await writeJpeg(join(card, 'HRN_1.jpg'), 1);
  const worker = await startWorker(archive.house);
  try {
    const id = await bringIn(archive, card, { mode: 'copy', place: far, filing: 'In' });
    const accession = await db()
      .selectFrom('accession')
      .select('state')
      .where('id', '=', id)
      .executeTakeFirstOrThrow();
    expect(accession.state).toBe('paused');
    const job = db().selectFrom('job').select('reason').where('accessionId', '=', id);
    expect((await job.executeTakeFirstOrThrow()).reason).toContain('“Far” is away.');
    expect(under()).toEqual([]);
  } finally {
    await worker.stop();
  }
});
