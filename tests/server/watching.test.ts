import { mkdirSync, renameSync, rmSync, watch, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { walkAll } from '#server/files/disk';
import { addPlace, type Place } from '#server/places/places';
import type { WatchOne } from '#server/watching/folders';
import { placeLines } from '#server/watching/manage';
import { startWatching, type Watching } from '#server/watching/watch';
import { startWorker } from '#server/work/worker';
import { askToCompare } from '#server/watching/compare';
import { bringIn, idle, until, useArchive } from '../support/archive';
import { writeJpeg } from '../support/pictures';

/** A folder of this name lets nobody in while it is shut, whoever asks. */
const CLOSED = 'closed to all';
const door = vi.hoisted(() => ({ isShut: false }));
vi.mock('node:fs/promises', async (original) => {
  const fs = await original<typeof import('node:fs/promises')>();
  const readdir = ((path: string | Buffer, ...rest: [never]) =>
    door.isShut && String(path).endsWith(CLOSED)
      ? Promise.reject(Object.assign(new Error('EACCES'), { code: 'EACCES' }))
      : fs.readdir(path, ...rest)) as typeof fs.readdir;
  return { ...fs, readdir };
});

const archive = useArchive({ worker: false });
let watching: Watching | null = null;
let place: Place;
let root = '';
let at = 0;
/** Folders of which the system will not tell, and those whose watch it was asked for. */
const refused = new Set<string>();
let asked: string[] = [];
const watchOne: WatchOne = (folder, heard) => {
  asked.push(folder);
  if (refused.has(folder)) throw new Error('too many watches');
  return watch(folder, heard);
};

beforeEach(async () => {
  at += 1;
  root = join(archive.folder, `place ${at}`);
  mkdirSync(join(root, 'inner'), { recursive: true });
  writeFileSync(join(root, 'inner/a.txt'), 'a');
  place = await addPlace(archive.house, `Place ${at}`, root);
  await archive.house.db.updateTable('place').set({ here: true }).execute();
  [asked, watching] = [[], null];
  refused.clear();
});
afterEach(async () => {
  await watching?.stop();
  await archive.house.db.updateTable('place').set({ watched: false }).execute();
});
const deaf = async (): Promise<string | null> =>
  (await placeLines(archive.house)).find(({ id }) => id === place.id)!.deaf;
/** Comparisons that wait are done; a new one was asked for. */
async function isAskedFor(what: string): Promise<void> {
  const { db } = archive.house;
  await db.updateTable('job').set({ state: 'done' }).execute();
  await until(
    async () =>
      (await db.selectFrom('job').select('id').where('state', '=', 'waiting').execute()).length > 0,
    what,
    15,
  );
}

describe('a place', () => {
  it('of which the system does not tell all says so, and is compared by itself', async () => {
    refused.add(join(root, 'inner'));
    watching = startWatching(archive.house, { watchOne, deafMs: 300 });
    await until(async () => (await deaf()) === 'too many watches', 'the place to say so', 15);
    await isAskedFor('a comparison nobody asked for');
    await isAskedFor('another one');
  });

  it('that is another folder of the same name now is watched anew', async () => {
    watching = startWatching(archive.house, { watchOne });
    await until(() => Promise.resolve(asked.includes(join(root, 'inner'))), 'the watch', 15);
    // Quicker than anybody looks whether it is there.
    mkdirSync(`${root} new/inner`, { recursive: true });
    asked = [];
    renameSync(root, `${root} old`);
    renameSync(`${root} new`, root);
    await until(() => Promise.resolve(asked.includes(join(root, 'inner'))), 'a new watch', 15);
    // What the new watch itself asked for is not counted as heard.
    await isAskedFor('a comparison with the new folder');
    writeFileSync(join(root, 'inner/b.txt'), 'b');
    await isAskedFor('the new folder to be heard');
    expect(await deaf()).toBeNull();
    rmSync(`${root} old`, { recursive: true });
  });
});

describe('a folder that cannot be read', () => {
  afterEach(() => {
    door.isShut = false;
  });

  it('is told, and the others are looked through', async () => {
    mkdirSync(join(root, CLOSED));
    writeFileSync(join(root, CLOSED, 'hidden.jpg'), 'h');
    writeFileSync(join(root, 'z.txt'), 'z');
    door.isShut = true;
    const { files, unread, leftOut } = await walkAll(root);
    expect(files.map(({ path }) => path)).toEqual(['inner/a.txt', 'z.txt']);
    expect(unread).toEqual([CLOSED]);
    expect(leftOut).toEqual([{ path: CLOSED, why: `The system refuses access to “${CLOSED}”.` }]);
  });

  it('has nothing in it called missing, while what is gone elsewhere is', async () => {
    const { db } = archive.house;
    const folders = [join(root, 'open'), join(root, CLOSED)];
    for (const [at, folder] of folders.entries()) await writeJpeg(join(folder, 'p.jpg'), 70 + at);
    const files = ['open/p.jpg', `${CLOSED}/p.jpg`].map((path) => ({ path, size: 1 }));
    const worker = await startWorker(archive.house);
    await bringIn(archive, root, { mode: 'in-place', place, files });
    await idle(archive);
    door.isShut = true;
    for (const folder of folders) rmSync(join(folder, 'p.jpg'));
    await askToCompare(archive.house, place);
    await idle(archive);
    await worker.stop();
    const rows = await db
      .selectFrom('file as f')
      .innerJoin('folder as d', 'd.id', 'f.folderId')
      .select(['d.path', 'f.state'])
      .where('f.placeId', '=', place.id)
      .orderBy('d.path', 'desc')
      .execute();
    expect(rows).toEqual([
      { path: 'open', state: 'missing' },
      { path: CLOSED, state: 'present' },
    ]);
  });
});
