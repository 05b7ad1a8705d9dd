import { sql } from 'kysely';
import { beforeAll, describe, expect, it } from 'vitest';
import type { StampLine } from '#core/lists/entries';
import { HOUSE } from '#core/sight/viewer';
import { parseQuery } from '#core/query/grammar';
import { findIds } from '#server/catalogue/find';
import { wishJob } from '#server/jobs/queue';
import { undo } from '#server/deeds/undo';
import { linesOf } from '#server/ledger/ledger';
import { startStamp } from '#server/lists/stamping';
import { stampPreview } from '#server/lists/stamps';
import { changeRecords, readRecords } from '#server/records/records';
import { setPlace } from '#server/watching/manage';
import { startWorker } from '#server/work/worker';
import { fill } from '../../bench/compare';
import { idle, KEEPER, placeNamed, useArchive } from '../support/archive';
import { asSeen } from '#server/sight/seen';

/** A stamp on more items than anybody waits for. */
const archive = useArchive({ worker: false });
const db = () => archive.house.db;
const COUNT = 1300;
const lines: StampLine[] = [
  { field: 'event', way: 'overwrite', value: 'Wind Week {number}' },
  { field: 'creditLine', way: 'fill', value: 'Saltreach Kites' },
  { field: 'terms', way: 'add', value: ['Weather'] },
];
let ids: string[] = [];
const stamp = async () => {
  const shown = await stampPreview(db(), asSeen(ids), lines);
  return startStamp(db(), null, { name: 'Wind Week', lines, ids: asSeen(ids) }, shown);
};
const stamped = async (): Promise<number> =>
  (await readRecords(db(), ids)).filter(
    ({ number, values: { event, terms } }) =>
      event === `Wind Week ${number}` && terms.includes('Weather'),
  ).length;
const line = async (id: string) => (await linesOf(db(), [id]))[0]!;
const jobOf = (operationId: string) =>
  db()
    .selectFrom('job')
    .select(['id', 'state', 'done', 'total', 'reason'])
    .where('operationId', '=', operationId)
    .where('task', '=', 'stamp')
    .executeTakeFirstOrThrow();
const waiting = async (): Promise<number> =>
  (await db().selectFrom('stamping').select('operationId').execute()).length;

beforeAll(async () => {
  const place = await placeNamed(archive, 'Shelf');
  // Writing a thousand files is another test’s.
  await setPlace(archive.house, place.id, { watched: false, handsOff: true });
  await fill(archive.house, place, COUNT);
  // There is nothing in these files to be read anew.
  await sql`update item set reading = 1000`.execute(db());
  ids = await findIds(db(), HOUSE, parseQuery('order number'));
}, 60_000);

describe('a stamp on many', () => {
  it('waits for a worker, can be stopped before, and then nothing of it is done', async () => {
    const { operationId } = (await stamp())!;
    expect(await line(operationId)).toMatchObject({ state: 'planned', total: COUNT });
    const { id } = await jobOf(operationId);
    await wishJob(db(), KEEPER, id, 'cancel');
    expect(await line(operationId)).toMatchObject({ state: 'failed', canUndo: false });
    expect(await stamped()).toBe(0);
  });

  it('is given up where its worker ends each time, and the ledger says so', async () => {
    const { operationId } = (await stamp())!;
    // What was given up before is not kept.
    expect(await waiting()).toBe(1);
    const { id } = await jobOf(operationId);
    await db().updateTable('job').set({ attempts: 3 }).where('id', '=', id).execute();
    archive.worker = await startWorker(archive.house);
    await idle(archive);
    await archive.worker.stop();
    expect(await jobOf(operationId)).toMatchObject({
      state: 'failed',
      reason: expect.stringContaining('given up'),
    });
    expect(await line(operationId)).toMatchObject({ state: 'failed', canUndo: false });
    expect(await stamped()).toBe(0);
  });

  it('of which one was changed since is refused, when asked for and when it is done', async () => {
    const shown = await stampPreview(db(), asSeen(ids), lines);
    await changeRecords(db(), null, asSeen([ids[7]!]), { event: 'Meanwhile' });
    await expect(
      startStamp(db(), null, { name: 'Wind Week', lines, ids: asSeen(ids) }, shown),
    ).rejects.toMatchObject({ code: 'conflict' });
    const { operationId } = (await stamp())!;
    await changeRecords(db(), null, asSeen([ids[900]!]), { event: 'And again' });
    archive.worker = await startWorker(archive.house);
    await idle(archive);
    expect(await jobOf(operationId)).toMatchObject({
      state: 'failed',
      reason: expect.stringContaining('changed by someone else'),
    });
    expect(await line(operationId)).toMatchObject({ state: 'failed', canUndo: false });
    expect(await stamped()).toBe(0);
  });

  it('is one step of the ledger, told while it goes on, taken back as one', async () => {
    const { operationId, changed } = (await stamp())!;
    expect(changed).toBe(COUNT);
    await idle(archive);
    expect(await jobOf(operationId)).toMatchObject({ state: 'done', done: COUNT, total: COUNT });
    expect(await line(operationId)).toMatchObject({
      ...{ state: 'done', kind: 'record', total: COUNT, done: COUNT, canUndo: true },
      summary: 'Set credit line, terms, event',
    });
    expect([await waiting(), await stamped()]).toEqual([0, COUNT]);
    expect((await stampPreview(db(), asSeen(ids), lines)).changed).toBe(0);
    await undo(db(), null, operationId);
    await idle(archive);
    expect(await stamped()).toBe(0);
    const [meanwhile] = await readRecords(db(), [ids[7]!]);
    expect(meanwhile!.values.event).toBe('Meanwhile');
  });
});
