import {
  mkdirSync,
  mkdtempSync,
  renameSync,
  rmSync,
  symlinkSync,
  watch,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { watchFolders, type FolderWatch, type WatchOne } from '#server/watching/folders';

const base = mkdtempSync(join(tmpdir(), 'mindful-folders-'));
afterAll(() => rmSync(base, { recursive: true }));
let root = '';
let stirred = 0;
let wrongs: unknown[] = [];
let watched: FolderWatch;
const pause = (milliseconds: number) => new Promise((done) => setTimeout(done, milliseconds));
/** Whether something was heard after an act, once what came before it has settled. */
async function hears(act: () => void): Promise<boolean> {
  await pause(150);
  stirred = 0;
  act();
  for (const end = Date.now() + 2000; stirred === 0 && Date.now() < end;) await pause(20);
  return stirred > 0;
}
async function isQuiet(act: () => void): Promise<boolean> {
  await pause(150);
  stirred = 0;
  act();
  await pause(300);
  return stirred === 0;
}

let at = 0;
beforeEach(async () => {
  at += 1;
  root = join(base, `place ${at}`);
  mkdirSync(join(root, 'a/b'), { recursive: true });
  writeFileSync(join(root, 'a/b/file.txt'), 'x');
  [stirred, wrongs] = [0, []];
  watched = watchFolders(
    root,
    () => (stirred += 1),
    (error) => wrongs.push(error),
  );
  await pause(150);
});
afterEach(() => {
  watched.close();
  expect(wrongs).toEqual([]);
});

describe('folders that are watched', () => {
  it('tell of files that come, change, move and go, at any depth', async () => {
    const path = join(root, 'a/b/new.txt');
    expect(await hears(() => writeFileSync(path, 'one'))).toBe(true);
    expect(await hears(() => writeFileSync(path, 'another'))).toBe(true);
    expect(await hears(() => renameSync(path, join(root, 'moved.txt')))).toBe(true);
    expect(await hears(() => rmSync(join(root, 'moved.txt')))).toBe(true);
  });

  it('take in folders that come, with all that is in them, and follow those that move', async () => {
    mkdirSync(join(base, `tree ${at}/deep/er`), { recursive: true });
    expect(await hears(() => renameSync(join(base, `tree ${at}`), join(root, 'tree')))).toBe(true);
    expect(await hears(() => writeFileSync(join(root, 'tree/deep/er/x'), ''))).toBe(true);
    expect(await hears(() => renameSync(join(root, 'tree'), join(root, 'a/tree')))).toBe(true);
    expect(await hears(() => writeFileSync(join(root, 'a/tree/deep/y'), ''))).toBe(true);
  });

  it('are watched again when they went and came back', async () => {
    expect(await hears(() => rmSync(join(root, 'a'), { recursive: true }))).toBe(true);
    expect(await hears(() => mkdirSync(join(root, 'a/b'), { recursive: true }))).toBe(true);
    expect(await hears(() => writeFileSync(join(root, 'a/b/again'), ''))).toBe(true);
  });

  it('say nothing of clutter, of what links lead to, and after they were let go', async () => {
    const outside = join(base, `outside ${at}`);
    mkdirSync(outside);
    symlinkSync(outside, join(root, 'link'));
    expect(await isQuiet(() => writeFileSync(join(outside, 'x'), ''))).toBe(true);
    expect(await isQuiet(() => writeFileSync(join(root, '.mindful-new'), ''))).toBe(true);
    expect(await isQuiet(() => writeFileSync(join(root, 'a/.DS_Store'), ''))).toBe(true);
    watched.close();
    expect(await isQuiet(() => writeFileSync(join(root, 'late'), ''))).toBe(true);
  });

  it('say once that the system lets no more be watched, and still tell of the rest', async () => {
    await vi.waitFor(() => expect(watched.deaf()).toBeNull(), 5000);
    watched.close();
    const full = Object.assign(new Error('no space left for watches'), { code: 'ENOSPC' });
    const refusing: WatchOne = (folder, heard) => {
      if (folder !== root) throw full;
      return watch(folder, heard);
    };
    mkdirSync(join(root, 'c'));
    const told: unknown[] = [];
    watched = watchFolders(
      root,
      () => (stirred += 1),
      (error) => told.push(error),
      refusing,
    );
    await vi.waitFor(() => expect(watched.deaf()).toBe('no space left for watches'), 5000);
    expect(told).toEqual([full]);
    expect(await hears(() => writeFileSync(join(root, 'top.txt'), 'x'))).toBe(true);
    expect(await isQuiet(() => writeFileSync(join(root, 'c/unheard.txt'), 'x'))).toBe(true);
  });
});
