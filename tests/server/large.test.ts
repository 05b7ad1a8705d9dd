import { sql } from 'kysely';
import { beforeAll, describe, expect, it } from 'vitest';
import { perform, runDeed } from '#server/deeds/large';
import { takeBack } from '#server/deeds/takeBack';
import type { JobRow, Progress } from '#server/jobs/attempt';
import { underway, wishJob } from '#server/jobs/queue';
import { TASKS, TASK_NAMES, taskNamed } from '#server/jobs/tasks';
import { ledger, type LedgerLine } from '#server/ledger/ledger';
import { readRecords } from '#server/records/records';
import { asSeen } from '#server/sight/seen';
import { RUNS } from '#server/work/tasks';
import { idle, KEEPER, until, useArchive } from '../support/archive';
import { makeItems } from '../support/made';

/** Changes of very many are done by a worker: all of it or nothing, once, and whoever asked learns what came of it. */
const archive = useArchive();
const db = () => archive.house.db;
let ids: string[] = [];
const LARGE = { size: 5000, title: 'A large change' };
const wish = (title: string, versions: Record<string, number> = {}) => ({
  ids: asSeen(ids),
  change: { title },
  versions,
});
const titles = async (): Promise<string[]> => [
  ...new Set((await readRecords(db(), ids)).map(({ values }) => values.title)),
];
const QUIET = {
  report: () => Promise.resolve(),
  checkWish: () => Promise.resolve(),
} as unknown as Progress;
const last = async (): Promise<LedgerLine> => (await ledger(db(), 0, 1))[0]!;
const jobs = () => underway(db(), KEEPER);

beforeAll(async () => {
  ids = (await makeItems(archive)).map(({ id }) => id);
  await idle(archive);
});

describe('a kind of work', () => {
  it('is one record, and something runs it', () => {
    expect(Object.keys(RUNS).sort()).toEqual([...TASK_NAMES].sort());
    for (const name of TASK_NAMES) expect(taskNamed(name)).toBe(TASKS[name]);
    expect(taskNamed('toString')).toBeNull();
  });
});

describe('a large change', () => {
  it('is a job, waited for a little, and one line of the ledger', async () => {
    const done = await perform(archive.house, null, 'describe', wish('By a worker'), LARGE);
    expect(done).toMatchObject({ underway: false, changed: ids.length });
    expect(await titles()).toEqual(['By a worker']);
    expect(await last()).toMatchObject({ id: done.operation, total: ids.length });
    expect((await jobs()).find(({ title }) => title === LARGE.title)).toMatchObject({
      state: 'done',
      stoppable: true,
    });
    // Taking it back is as large.
    const back = await takeBack(archive.house, null, { ...(await last()), total: 5000 });
    expect(back.underway).toBe(false);
    expect((await titles()).length).toBeGreaterThan(1);
    expect((await last()).undoes).toBe(done.operation);
  });

  it('that is refused is refused to whoever asked, with what stands in the way', async () => {
    const [first] = await readRecords(db(), [ids[0]!]);
    await perform(archive.house, null, 'describe', wish('First'), LARGE);
    const stale = wish('Second', { [ids[0]!]: first!.version });
    await expect(perform(archive.house, null, 'describe', stale, LARGE)).rejects.toMatchObject({
      code: 'conflict',
      data: { field: 'title', theirs: 'First' },
    });
    expect(await titles()).toEqual(['First']);
    // Tried again it is refused again: it never passes for done.
    const refused = await db()
      .selectFrom('job')
      .selectAll()
      .where('task', '=', 'deed')
      .orderBy('createdAt', 'desc')
      .executeTakeFirstOrThrow();
    await expect(runDeed(archive.house, refused as JobRow, QUIET)).rejects.toMatchObject({
      code: 'conflict',
    });
    const before = await last();
    await perform(archive.house, null, 'describe', wish('Third'), LARGE);
    await expect(takeBack(archive.house, null, { ...before, total: 5000 })).rejects.toMatchObject({
      code: 'conflict',
      data: { rest: 0 },
    });
  });

  it('goes on under Underway, and stopped half-way changes nothing', async () => {
    await idle(archive);
    let free = (): void => undefined;
    const freed = new Promise<void>((resolve) => (free = resolve));
    // Somebody holds one of the records: the change stands in its middle.
    const held = db()
      .transaction()
      .execute(async (transaction) => {
        await sql`select from item where id = ${ids.at(-1)} for update`.execute(transaction);
        await freed;
      });
    const before = await titles();
    const by = { ...LARGE, patience: 300 };
    const change = { ids: asSeen(ids), change: { addTerms: ['Kite'] }, versions: {} };
    const given = async (): Promise<number> =>
      (await readRecords(db(), ids)).filter(({ values }) => values.terms.includes('Kite')).length;
    const had = await given();
    expect(await perform(archive.house, null, 'describe', change, by)).toEqual({
      ...{ operation: null, changed: by.size, underway: true },
    });
    const id = (await jobs()).find(({ state }) => state === 'running')!.id;
    await wishJob(db(), KEEPER, id, 'cancel');
    free();
    await held;
    await until(
      async () => (await jobs()).find((job) => job.id === id)?.state === 'cancelled',
      'it to stop',
    );
    expect(await given()).toBe(had);
    expect(await titles()).toEqual(before);
  });

  it('is done once, however often its job is run', async () => {
    await perform(archive.house, null, 'describe', wish('Once'), LARGE);
    const job = await db()
      .selectFrom('job')
      .selectAll()
      .where('task', '=', 'deed')
      .orderBy('createdAt', 'desc')
      .executeTakeFirstOrThrow();
    await perform(archive.house, null, 'describe', wish('Twice'), { ...LARGE, size: 1 });
    // A worker died after the deed, before it said so.
    await runDeed(archive.house, job as JobRow, QUIET);
    expect(await titles()).toEqual(['Twice']);
    // One that died before the deed finds what was wished, and does it.
    await db().updateTable('deedWish').set({ outcome: null }).where('jobId', '=', job.id).execute();
    await runDeed(archive.house, job as JobRow, QUIET);
    expect(await titles()).toEqual(['Once']);
    expect((await ledger(db(), 0, 2, { about: '' })).map(({ total }) => total)).toEqual([
      ids.length,
      ids.length,
    ]);
    expect((await readRecords(db(), [ids[0]!]))[0]!.values.title).toBe('Once');
  });
});
