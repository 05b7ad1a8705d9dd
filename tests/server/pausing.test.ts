import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, renameSync } from 'node:fs';
import { join } from 'node:path';
import { sql } from 'kysely';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { HOUSE } from '#core/sight/viewer';
import { parseQuery } from '#core/query/grammar';
import { findIds } from '#server/catalogue/find';
import { runJob, type Task } from '#server/jobs/attempt';
import { requeue, wishJob } from '#server/jobs/queue';
import { runOperation } from '#server/ledger/carryOut';
import { undo } from '#server/deeds/undo';
import { linesOf } from '#server/ledger/ledger';
import { startFiling, type FilingWish } from '#server/naming/filing';
import { ensureFolders, folderKey } from '#server/places/folderRows';
import { addPlace, type Place } from '#server/places/places';
import { fill } from '../../bench/compare';
import { KEEPER, placeNamed, treeOf, useArchive } from '../support/archive';
import { asSeen } from '#server/sight/seen';

/** Files on their way, and somebody who wants them to stop. */
const archive = useArchive({ worker: false });
const COUNT = 2300;
const db = () => archive.house.db;
let near: Place;
let far: Place;
let ids: string[] = [];
let before: Record<string, string> = {};

beforeAll(async () => {
  near = await placeNamed(archive, 'Shelf');
  await db().updateTable('place').set({ watched: false }).execute();
  await fill(archive.house, near, COUNT);
  const folder = join(archive.folder, 'Far');
  mkdirSync(folder);
  execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=64m', 'tmpfs', folder]);
  far = await addPlace(archive.house, 'Far', folder);
  await db().updateTable('place').set({ watched: false }).execute();
  ids = await findIds(db(), HOUSE, parseQuery('order name'));
  before = treeOf(near.root);
});
afterAll(() => execFileSync('umount', [far.root]));

const file = (itemIds: string[], over: Partial<FilingWish> = {}): Promise<string> =>
  startFiling(db(), null, {
    ...{
      viewer: HOUSE,
      itemIds: asSeen(itemIds),
      pattern: 'Filed/{number, last 1}',
      missing: 'leave',
    },
    ...{ fallback: '-', clash: 'refuse', into: null, removeEmptied: false },
    ...over,
  });
const jobOf = (operation: string) =>
  db()
    .selectFrom('job')
    .selectAll()
    .where('operationId', '=', operation)
    .where('task', '=', 'operation')
    .executeTakeFirstOrThrow();
const lineOf = async (operation: string) => (await linesOf(db(), [operation]))[0]!;

/** Files of an operation that have gone, and those that stay for good. */
async function gone(operation: string): Promise<{ done: number; failed: number }> {
  const { rows } = await sql<{ done: number; failed: number }>`
    select count(*) filter (where state = 'done')::int as done, count(*) filter (where state = 'failed')::int as failed
    from operation_step where operation_id = ${operation}::uuid and action <> 'folder'`.execute(
    db(),
  );
  return rows[0]!;
}

/** Run it as a worker does. @param wish what somebody says once the first files have gone */
async function run(operation: string, wish?: 'pause' | 'cancel'): Promise<void> {
  const { id } = await jobOf(operation);
  let isSaid = wish === undefined;
  const task: Task = (house, job, progress) =>
    runOperation(house, job, {
      ...progress,
      report: async (done, total, unit) => {
        await progress.report(done, total, unit);
        if (isSaid) return;
        isSaid = true;
        await wishJob(db(), KEEPER, id, wish!);
        await new Promise((resolve) => setTimeout(resolve, 300));
      },
    });
  await runJob(archive.house, { operation: task }, id);
}

/** Every row tells where its file lies, and nothing of ours is left over. */
async function agree(): Promise<void> {
  const { rows } = await sql<{ path: string }>`
    select p.root || '/' || case when d.path = '' then '' else d.path || '/' end || f.name as path
    from file f join folder d on d.id = f.folder_id join place p on p.id = f.place_id`.execute(
    db(),
  );
  expect(rows.filter(({ path }) => !existsSync(path))).toEqual([]);
  const all = [...Object.keys(treeOf(near.root)), ...Object.keys(treeOf(far.root))];
  expect(all.filter((path) => path.includes('.mindful-'))).toEqual([]);
  expect(all).toHaveLength(rows.length);
}
const filed = (place: Place): number =>
  Object.keys(treeOf(place.root)).filter((path) => path.startsWith('Filed/')).length;
async function back(operation: string): Promise<void> {
  await run(await undo(db(), null, operation));
  await agree();
  expect(treeOf(near.root)).toEqual(before);
  expect(filed(far)).toBe(0);
}

describe.each([
  ['within a place', () => null, 2200],
  ['to another disk', () => ({ placeId: far.id, path: '' }), 60],
])('files that go %s', (_words, into, count) => {
  let operation = '';
  const there = (): number => filed(into() ? far : near);
  beforeEach(async () => {
    operation = await file(ids.slice(0, count), { into: into() });
  });

  it('pause with every row where its file lies, are not undone half-way, and go on', async () => {
    await run(operation, 'pause');
    await agree();
    const done = there();
    expect(done).toBeGreaterThan(0);
    expect(done).toBeLessThan(count);
    expect(await jobOf(operation)).toMatchObject({ state: 'paused', done, total: count });
    expect(await gone(operation)).toEqual({ done, failed: 0 });
    expect(await lineOf(operation)).toMatchObject({ state: 'paused', canUndo: false });
    await expect(undo(db(), null, operation)).rejects.toMatchObject({ code: 'conflict' });
    await requeue(db(), (await jobOf(operation)).id);
    await run(operation);
    await agree();
    expect(there()).toBe(count);
    expect(await gone(operation)).toEqual({ done: count, failed: 0 });
    expect(await lineOf(operation)).toMatchObject({ state: 'done', canUndo: true });
    await back(operation);
  });

  it('stop with the rest where it was, and what had gone comes back', async () => {
    await run(operation, 'cancel');
    await agree();
    const done = there();
    expect(done).toBeGreaterThan(0);
    expect(done).toBeLessThan(count);
    expect((await jobOf(operation)).state).toBe('cancelled');
    expect(await gone(operation)).toEqual({ done, failed: count - done });
    expect(await lineOf(operation)).toMatchObject({ state: 'done', canUndo: true });
    await back(operation);
  });

  it('are given up while they are paused', async () => {
    await run(operation, 'pause');
    const done = there();
    await wishJob(db(), KEEPER, (await jobOf(operation)).id, 'cancel');
    expect(await gone(operation)).toEqual({ done, failed: count - done });
    expect(await lineOf(operation)).toMatchObject({ state: 'done', canUndo: true });
    await back(operation);
  });
});

describe('work that waits', () => {
  it('is not done where it is cancelled before it began', async () => {
    const operation = await file(ids.slice(0, 20));
    await wishJob(db(), KEEPER, (await jobOf(operation)).id, 'cancel');
    expect(await lineOf(operation)).toMatchObject({ state: 'failed', done: 0, canUndo: false });
    await run(operation);
    expect(treeOf(near.root)).toEqual(before);
  });

  it('is settled first where a cut left it half done', async () => {
    const operation = await file(ids.slice(0, 20));
    await db().updateTable('operation').set({ begun: 20 }).where('id', '=', operation).execute();
    const { id } = await jobOf(operation);
    await wishJob(db(), KEEPER, id, 'cancel');
    expect((await jobOf(operation)).state).toBe('waiting');
    await run(operation);
    await agree();
    expect(filed(near)).toBe(20);
    expect(await gone(operation)).toEqual({ done: 20, failed: 0 });
    await back(operation);
  });
});

it('files whose rows a cut left stored and whose steps were not told yet are found where they lie', async () => {
  const operation = await file(ids.slice(0, 20));
  const { rows } = await sql<{ id: string; from: string; to: string; name: string }>`
    select file_id as id, before ->> 'folder' as "from", after ->> 'folder' as "to", after ->> 'name' as name
    from operation_step where operation_id = ${operation}::uuid and action = 'move' and position < 10`.execute(
    db(),
  );
  const folders = await ensureFolders(
    db(),
    rows.map(({ to }) => ({ placeId: near.id, path: to })),
  );
  for (const { id, from, to, name } of rows) {
    mkdirSync(join(near.root, to), { recursive: true });
    renameSync(join(near.root, from, name), join(near.root, to, name));
    const folderId = folders.get(folderKey({ placeId: near.id, path: to }))!;
    await db().updateTable('file').set({ folderId }).where('id', '=', id).execute();
  }
  await db().updateTable('operation').set({ begun: 20 }).where('id', '=', operation).execute();
  await run(operation);
  await agree();
  expect(await gone(operation)).toEqual({ done: 20, failed: 0 });
  await back(operation);
});

it('copies that are stopped are laid whole or not at all, and taken away again', async () => {
  const MANY = 900;
  const operation = await file(ids.slice(0, MANY), {
    ...{ copies: true, into: { placeId: far.id, path: '' } },
  });
  await run(operation, 'cancel');
  const laid = filed(far);
  expect(laid).toBeGreaterThan(0);
  expect(laid).toBeLessThan(MANY);
  await agree();
  expect(await gone(operation)).toEqual({ done: laid, failed: MANY - laid });
  await back(operation);
});
