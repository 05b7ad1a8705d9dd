import { cp, mkdir, mkdtemp, rename as renameFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { basename, dirname, join } from 'node:path';
import { HOUSE } from '#core/sight/viewer';
import { parseQuery } from '#core/query/grammar';
import { parseWallClock } from '#core/records/taken';
import { previewRename, type RenameSubject } from '#core/naming/rename';
import { findIds } from '#server/catalogue/find';
import { syncFolder, walk } from '#server/files/disk';
import { askIndex } from '#server/index/client';
import type { House } from '#server/house/house';
import { undo } from '#server/deeds/undo';
import { startFiling } from '#server/naming/filing';
import { startRename } from '#server/naming/rename';
import { addPlace } from '#server/places/places';
import { resolve } from '#server/query/names';
import { startWorker } from '#server/work/worker';
import { fill } from './compare';
import { queueEmpty } from './house';
import { randomOf } from './material';
import { startIndexProcess } from './million';
import { measure, type BenchLine } from './report';
import { asSeen } from '#server/sight/seen';

const MS_DAY = 86_400_000;
const PATTERN = '{taken yyyyMMdd}-{counter 0001 by day}';

/** Subjects in fifty folders, taken over a year, some of whose names meet what lies there. */
function subjects(count: number): RenameSubject[] {
  const next = randomOf(12);
  const folders = Array.from({ length: 50 }, (_, at) => `folder ${at}`);
  return Array.from({ length: count }, (_, at): RenameSubject => {
    const takenText = new Date(Date.UTC(2025, 0, 1) + Math.floor(next() * 365) * MS_DAY)
      .toISOString()
      .slice(0, 19);
    return {
      id: String(at),
      name: `HRN_${at}.JPG`,
      original: `HRN_${at}.JPG`,
      values: {},
      folder: folders[at % folders.length]!,
      takenText,
      taken: parseWallClock(takenText),
      takenDay: Number(takenText.slice(0, 10).replaceAll('-', '')),
      precision: 'moment',
    };
  });
}

/** A preview of so many names, some of which clash, against nothing but putting as many texts together. */
export async function rename(_house: House, count: number, runs: number): Promise<BenchLine> {
  const all = subjects(count);
  const held = new Map([['folder 0', new Set(['20250101-0001.jpg', '20250102-0001.jpg'])]]);
  const run = (): Promise<number> => {
    const lines = previewRename(PATTERN, all, held, { clash: 'refuse', extension: 'lower' });
    return Promise.resolve(lines.length && 0);
  };
  const days = all.map(({ takenText }) => takenText!.slice(0, 10));
  const texts = (): string[] => days.map((day, at) => `${day}-${String(at).padStart(4, '0')}.jpg`);
  await run();
  texts();
  return measure(
    'rename',
    count,
    runs,
    () => timed(run),
    () => timed(() => Promise.resolve(texts())),
  );
}

/** A place of so many small files, the archive's and bare ones beside it, while a worker is at hand. */
async function withFiles<T>(
  house: House,
  count: number,
  act: (ids: string[], bare: string) => Promise<T>,
): Promise<T> {
  const root = await mkdtemp(join(tmpdir(), 'mindful-place-'));
  const bare = await mkdtemp(join(tmpdir(), 'mindful-bare-'));
  const place = await addPlace(house, 'bench', root);
  await house.db.updateTable('place').set({ watched: false }).execute();
  await fill(house, place, count);
  await cp(root, bare, { recursive: true });
  const worker = await startWorker(house);
  // What a worker does at its start is no part of this.
  await queueEmpty(house);
  try {
    const ids = await findIds(house.db, HOUSE, parseQuery('order name'));
    return await act(ids, bare);
  } finally {
    await worker.stop();
    await rm(root, { recursive: true, force: true });
    await rm(bare, { recursive: true, force: true });
  }
}

/** Every file of a folder and below renamed by rename(2), each folder concerned synced once. */
async function bareRename(
  root: string,
  nameOf: (path: string, at: number) => string,
): Promise<void> {
  const folders = new Set<string>();
  for (const [at, { path }] of (await walk(root)).entries()) {
    const target = join(root, nameOf(path, at));
    const folder = dirname(target);
    if (!folders.has(folder)) await mkdir(folder, { recursive: true });
    folders.add(folder).add(dirname(join(root, path)));
    await renameFile(join(root, path), target);
  }
  for (const folder of folders) await syncFolder(folder);
}

/** Take a rename of so many files back, until names, rows and words are as they were. */
export const undoing = (house: House, count: number, runs: number): Promise<BenchLine> =>
  withFiles(house, count, (ids, bare) =>
    measure(
      'undo',
      count,
      runs,
      async (run) => {
        const operation = await startRename(house.db, null, {
          itemIds: asSeen(ids),
          viewer: HOUSE,
          clash: 'refuse',
          extension: 'keep',
          pattern: `Run ${run} {counter 00001}`,
        });
        await queueEmpty(house);
        return timed(async () => {
          await undo(house.db, null, operation);
          await queueEmpty(house);
        });
      },
      (run) => bareRename(bare, (path) => join(dirname(path), `Run ${run} ${basename(path)}`)),
    ),
  );

/** How often is looked whether something is done, ms. */
const LOOK_MS = 10;
async function until(isSo: () => Promise<boolean>): Promise<void> {
  while (!(await isSo())) await new Promise((resolve) => setTimeout(resolve, LOOK_MS));
}

/**
 * File so many files by a plan, until they lie there for good: planned, noted, moved, their folders synced.
 * @returns beside it, ms: until their rows are right too and the ledger says done; and from when they lay there until
 * the index counts them and their words are found
 */
export const refiling = (
  house: House,
  count: number,
  runs: number,
): Promise<BenchLine & { doneMs: number; countedMs: number }> =>
  withFiles(house, count, async (ids, bare) => {
    const { child } = await startIndexProcess(house);
    const [ended, counted]: [number[], number[]] = [[], []];
    const line = await measure(
      'refile',
      count,
      runs,
      async (run) => {
        const began = performance.now();
        const operation = await startFiling(house.db, null, {
          itemIds: asSeen(ids),
          viewer: HOUSE,
          clash: 'refuse',
          missing: 'leave',
          fallback: '-',
          into: null,
          removeEmptied: false,
          pattern: `Run ${run}/{number, last 2}`,
        });
        const job = house.db.selectFrom('job').where('operationId', '=', operation);
        await until(async () => {
          const { done } = await job.select('done').executeTakeFirstOrThrow();
          return done === count;
        });
        const seconds = (performance.now() - began) / 1000;
        const done = house.db.selectFrom('operation').where('id', '=', operation);
        await until(
          async () => (await done.select('state').executeTakeFirstOrThrow()).state === 'done',
        );
        ended.push(performance.now() - began);
        const { query } = await resolve(house.db, parseQuery(`in "bench/Run ${run}"`));
        await until(async () => (await askIndex(house, { ask: 'total', query }, null)) === count);
        await queueEmpty(house);
        counted.push(performance.now() - began - seconds * 1000);
        return seconds;
      },
      (run) => bareRename(bare, (path, at) => join(`Run ${run}`, String(at % 100), basename(path))),
    ).finally(() => child.kill('SIGTERM'));
    return { ...line, doneMs: Math.round(middle(ended)), countedMs: Math.round(middle(counted)) };
  });

const middle = (values: number[]): number =>
  [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)]!;

async function timed(work: () => Promise<unknown>): Promise<number> {
  const began = performance.now();
  await work();
  return (performance.now() - began) / 1000;
}
