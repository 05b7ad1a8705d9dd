import { execFileSync } from 'node:child_process';
import {
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  rmSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { join } from 'node:path';
import { sql } from 'kysely';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { MHL_FOLDER } from '#core/manifest/folder';
import { listOfMoves } from '#core/naming/filing';
import { HOUSE } from '#core/sight/viewer';
import { parseQuery } from '#core/query/grammar';
import { findIds } from '#server/catalogue/find';
import { undo } from '#server/deeds/undo';
import { ledger, operationSteps } from '#server/ledger/ledger';
import { filingPreview, startFiling, type FilingWish } from '#server/naming/filing';
import { forgetPattern, keepPattern, keptPatterns } from '#server/naming/kept';
import { startRename } from '#server/naming/rename';
import { addPlace, type Place } from '#server/places/places';
import { changeRecords } from '#server/records/records';
import { makeFolderInside } from '#server/files/disk';
import { startWorker } from '#server/work/worker';
import { askToCompare } from '#server/watching/compare';
import { setPlace } from '#server/watching/manage';
import { bundled, filesToBring } from '#server/intake/sources/files';
import { bringIn, filesIn, idle, placeNamed, treeOf, useArchive } from '../support/archive';
import { AS_WISHED } from '../support/naming';
import { writeJpeg, xmpSidecar } from '../support/pictures';
import { asSeen } from '#server/sight/seen';

const archive = useArchive();
const db = () => archive.house.db;
let place: Place;
let root = '';
const find = (text: string): Promise<string[]> => findIds(db(), HOUSE, parseQuery(text));
const wish = (itemIds: string[], over: Partial<FilingWish> = {}): FilingWish => ({
  ...{
    viewer: HOUSE,
    itemIds: asSeen(itemIds),
    pattern: '{taken yyyy}/{taken MM}',
    missing: 'fallback',
  },
  ...{ fallback: 'undated', into: null, clash: 'refuse', removeEmptied: true },
  ...over,
});
const paths = (folder = root): string[] => Object.keys(treeOf(folder));
async function file(over: Partial<FilingWish> = {}, query = 'order name'): Promise<string> {
  const asked = wish(await find(query), over);
  const { fingerprint } = await filingPreview(db(), asked);
  const operation = await startFiling(db(), null, { ...asked, fingerprint });
  await idle(archive);
  return operation;
}
async function look(): Promise<void> {
  await setPlace(archive.house, place.id, { watched: true });
  await askToCompare(archive.house, place);
  await idle(archive);
  await setPlace(archive.house, place.id, { watched: false });
}
async function back(operation: string): Promise<void> {
  await undo(db(), null, operation);
  await idle(archive);
}

beforeAll(async () => {
  place = await placeNamed(archive, 'Shelf');
  root = join(archive.folder, 'Shelf');
  await setPlace(archive.house, place.id, { watched: false });
  const source = join(archive.folder, 'card');
  mkdirSync(source);
  for (const at of [1, 2, 3, 4, 5]) await writeJpeg(join(source, `k-${at}.jpg`), at);
  writeFileSync(join(source, 'k-1.xmp'), xmpSidecar());
  await bringIn(archive, source, { mode: 'copy', place, filing: 'Loose/one' });
  const dates = ['2026-09-12 19:42', '2026-10-01', '2025-11', '2024', ''];
  const ids = await find('order name');
  for (const [at, taken] of dates.entries())
    await changeRecords(db(), null, asSeen([ids[at]!]), { taken });
  await idle(archive);
}, 120_000);

describe('a filing plan', () => {
  it('shows the whole result as a tree, and never a day or month nobody knows', async () => {
    const shown = await filingPreview(db(), wish(await find('order name')));
    expect(shown.tree.map(({ path, isNew, comes, below }) => [path, isNew, comes, below])).toEqual([
      ['', false, 0, 5],
      ['2024', true, 0, 1],
      ['2024/undated', true, 1, 1],
      ['2025', true, 0, 1],
      ['2025/11', true, 1, 1],
      ['2026', true, 0, 2],
      ['2026/09', true, 1, 1],
      ['2026/10', true, 1, 1],
      ['undated', true, 1, 1],
    ]);
    expect(shown).toMatchObject({
      ...{ changed: 5, files: 6, stays: 0, left: 0, partly: 2, made: 8, joined: 0, problems: 0 },
      emptied: ['Shelf/Loose/one', 'Shelf/Loose'],
    });
    expect(listOfMoves(shown.moves).find(({ along }) => along)).toMatchObject({
      ...{ from: 'Shelf/Loose/one', to: 'Shelf/2026/09' },
      ...{ before: 'k-1.jpg.xmp', after: 'k-1.jpg.xmp' },
    });
    expect(paths()[0]).toBe('Loose/one/k-1.jpg');
  });

  it('says and lets choose what happens where a piece is missing', async () => {
    const ids = await find('order name');
    const known = await filingPreview(db(), wish(ids, { missing: 'known' }));
    const places = listOfMoves(known.moves).map(({ to, after }) => `${to}/${after}`);
    expect(places).toContain('Shelf/2024/k-4.jpg');
    expect(places).toContain('Shelf/k-5.jpg');
    const leave = await filingPreview(db(), wish(ids, { missing: 'leave' }));
    expect([leave.changed, leave.left, leave.emptied]).toEqual([3, 2, []]);
    await expect(filingPreview(db(), wish(ids, { fallback: 'a/b' }))).rejects.toMatchObject({
      code: 'name-refused',
    });
    await expect(filingPreview(db(), wish(ids, { pattern: '{counter 1}' }))).rejects.toMatchObject({
      code: 'pattern-unclear',
    });
  });

  it('moves what was shown, leaves no empty folders, and gives all of it back', async () => {
    const before = treeOf(root);
    const operation = await file();
    expect(paths()).toEqual([
      ...['2024/undated/k-4.jpg', '2025/11/k-3.jpg', '2026/09/k-1.jpg', '2026/09/k-1.jpg.xmp'],
      ...['2026/10/k-2.jpg', 'undated/k-5.jpg'],
    ]);
    expect(existsSync(join(root, 'Loose'))).toBe(false);
    expect(Object.values(treeOf(root)).sort()).toEqual(Object.values(before).sort());
    expect(await find('in Shelf/2026')).toHaveLength(2);
    const [line] = await ledger(db());
    expect(line).toMatchObject({ id: operation, kind: 'filing', state: 'done', failed: 0 });
    await back(operation);
    expect(treeOf(root)).toEqual(before);
    expect(await find('in Shelf/Loose')).toHaveLength(5);
  });

  it('run again moves only what has to move', async () => {
    const operation = await file();
    const ids = await find('order name');
    const again = await filingPreview(db(), wish(ids));
    expect([again.changed, again.stays, again.emptied]).toEqual([0, 5, []]);
    await expect(startFiling(db(), null, wish(ids))).rejects.toMatchObject({
      code: 'name-refused',
    });
    await changeRecords(db(), null, asSeen([ids[4]!]), { taken: '2026-10-02' });
    await idle(archive);
    const corrected = await filingPreview(db(), wish(await find('order name')));
    expect(listOfMoves(corrected.moves)).toMatchObject([
      { from: 'Shelf/undated', to: 'Shelf/2026/10', before: 'k-5.jpg', after: 'k-5.jpg' },
    ]);
    const second = await file();
    await back(second);
    await changeRecords(db(), null, asSeen([ids[4]!]), { taken: '' });
    // While a record is written beside its file the folder is not empty, and stays.
    await idle(archive);
    await back(operation);
    expect(paths()[0]).toBe('Loose/one/k-1.jpg');
  });

  it('refuses what was changed since it was shown', async () => {
    const asked = wish(await find('order name'));
    const { fingerprint } = await filingPreview(db(), asked);
    await changeRecords(db(), null, asSeen([asked.itemIds[0]!]), { taken: '2020-01-01' });
    await expect(startFiling(db(), null, { ...asked, fingerprint })).rejects.toMatchObject({
      code: 'conflict',
    });
    await changeRecords(db(), null, asSeen([asked.itemIds[0]!]), { taken: '2026-09-12 19:42' });
    await idle(archive);
  });

  it('joins folders that are there, whatever their case and composition', async () => {
    mkdirSync(join(root, 'Cafe\u0301'));
    mkdirSync(join(root, 'Cafe\u0301/DUSK'));
    const ids = await find('order name');
    await changeRecords(db(), null, asSeen(ids), { city: 'CAFÉ', sublocation: 'Dusk' });
    await idle(archive);
    const over = { pattern: '{city}/{sublocation}' };
    const shown = await filingPreview(db(), wish(ids, over));
    expect([shown.made, shown.joined]).toEqual([0, 1]);
    const operation = await file(over);
    expect(paths()[0]).toBe('Cafe\u0301/DUSK/k-1.jpg');
    expect(readdirSync(root).sort()).toEqual(['Cafe\u0301', MHL_FOLDER]);
    await back(operation);
    rmSync(join(root, 'Cafe\u0301'), { recursive: true });
  });

  it('settles names that meet by the rule that was chosen, what is there included', async () => {
    mkdirSync(join(root, 'All'));
    writeFileSync(join(root, 'All', 'K-1.JPG'), 'somebody’s');
    const ids = await find('order name');
    const into = { placeId: place.id, path: 'All' };
    const shown = await filingPreview(db(), wish(ids, { pattern: '', into }));
    expect([shown.problems, shown.changed]).toEqual([1, 5]);
    await expect(startFiling(db(), null, wish(ids, { pattern: '', into }))).rejects.toThrow(
      'there already',
    );
    const leave = await filingPreview(db(), wish(ids, { pattern: '', into, clash: 'leave' }));
    expect([leave.changed, leave.files, leave.emptied]).toEqual([4, 4, []]);
    const operation = await file({ pattern: '', into, clash: 'number' });
    expect(filesIn(join(root, 'All'))).toEqual(
      ['K-1.JPG', 'k-1-2.jpg', 'k-1-2.jpg.xmp', 'k-2.jpg', 'k-3.jpg', 'k-4.jpg', 'k-5.jpg'].sort(),
    );
    await back(operation);
    expect(filesIn(join(root, 'All'))).toEqual(['K-1.JPG']);
    rmSync(join(root, 'All'), { recursive: true });
  });

  it('gives new names along the way, as one step', async () => {
    const before = treeOf(root);
    const operation = await file({
      pattern: '{taken yyyy}',
      naming: { pattern: '{counter 01 by folder}-{name, last 1}', extension: 'keep' },
    });
    expect(paths()).toEqual([
      ...['2024/01-4.jpg', '2025/01-3.jpg', '2026/01-1.jpg', '2026/01-1.jpg.xmp', '2026/02-2.jpg'],
      'undated/01-5.jpg',
    ]);
    await back(operation);
    expect(treeOf(root)).toEqual(before);
  });

  it('undoes what was renamed again since only as far as it can, and says so', async () => {
    const operation = await file();
    const half = (await find('order name')).slice(0, 2);
    const renamed = await startRename(db(), null, {
      ...AS_WISHED,
      itemIds: asSeen(half),
      pattern: 'new {name}',
    });
    await idle(archive);
    const undone = await undo(db(), null, operation);
    await idle(archive);
    const steps = await operationSteps(db(), HOUSE, undone);
    const failed = steps.filter(({ state }) => state === 'failed');
    expect(failed.map(({ reason }) => reason).join()).toContain('by now');
    expect(paths().filter((path) => path.startsWith('Loose'))).toHaveLength(3);
    await back(renamed);
    await back((await ledger(db())).find(({ id }) => id === undone)!.id);
    await back(operation).catch(() => undefined);
    const rest = await file({ pattern: '', into: { placeId: place.id, path: 'Loose/one' } });
    expect(rest).not.toBe('');
    expect(paths()[0]).toBe('Loose/one/k-1.jpg');
  });

  it('of two people at once is done once; who comes later is told what stands in the way', async () => {
    const before = treeOf(root);
    const ids = await find('order name');
    const one = await startFiling(db(), null, wish(ids, { pattern: 'Hers' }));
    const other = await startFiling(db(), null, wish(ids, { pattern: 'His/{taken yyyy}' }));
    await idle(archive);
    const steps = (await operationSteps(db(), HOUSE, other)).filter(
      ({ itemId }) => itemId !== null,
    );
    const states = new Set(steps.map(({ state }) => state));
    expect([...states]).toEqual(['failed']);
    expect(
      steps.every(({ reason }) => /lies in “Shelf\/H.*” by now|belongs to stays/.test(reason!)),
    ).toBe(true);
    expect(Object.values(treeOf(root)).sort()).toEqual(Object.values(before).sort());
    await back(one);
    expect(treeOf(root)).toEqual(before);
  });

  it('leaves hands-off places alone and says so', async () => {
    await setPlace(archive.house, place.id, { handsOff: true });
    await expect(filingPreview(db(), wish(await find('order name')))).rejects.toThrow('hands off');
    await setPlace(archive.house, place.id, { handsOff: false });
  });
});

describe('names of files that are missing', () => {
  it('are held by them: they may come back', async () => {
    const before = treeOf(root);
    const lost = join(root, 'Loose/one/k-2.jpg');
    const bytes = readFileSync(lost);
    rmSync(lost);
    await look();
    expect(await find('file is missing')).toHaveLength(1);
    const ids = await find('name is k-3.jpg');
    await expect(
      startRename(db(), null, { ...AS_WISHED, itemIds: asSeen(ids), pattern: 'k-2' }),
    ).rejects.toMatchObject({ code: 'name-refused' });
    const moved = await file({ pattern: '', into: { placeId: place.id, path: 'Elsewhere' } });
    const into = { placeId: place.id, path: 'Loose/one' };
    const named = { pattern: 'k-2', extension: 'keep' as const };
    const shown = await filingPreview(db(), wish(ids, { pattern: '', into, naming: named }));
    expect(shown.problems).toBe(1);
    await back(moved);
    writeFileSync(lost, bytes);
    await look();
    expect(treeOf(root)).toEqual(before);
    expect(await find('file is missing')).toHaveLength(0);
  });

  it('are given up where another was renamed to them meanwhile; every other row follows its file', async () => {
    const before = treeOf(root);
    const lost = join(root, 'Loose/one/k-2.jpg');
    const bytes = readFileSync(lost);
    const ids = await find('order name');
    // Nobody knows yet that it is gone.
    rmSync(lost);
    const pattern = 'k-{counter 0}';
    const operation = await startRename(db(), null, {
      ...AS_WISHED,
      itemIds: asSeen(ids),
      pattern,
    });
    await idle(archive);
    const steps = await operationSteps(db(), HOUSE, operation);
    expect(steps.flatMap(({ reason }) => reason ?? [])).toHaveLength(1);
    expect(paths().map((path) => path.slice(-7))).toEqual([
      ...['k-0.jpg', 'jpg.xmp', 'k-2.jpg', 'k-3.jpg', 'k-4.jpg'],
    ]);
    expect(await find('file is missing')).toHaveLength(1);
    expect(await find('name begins "k-2.jpg (missing"')).toHaveLength(1);
    await back(operation);
    writeFileSync(lost, bytes);
    await look();
    expect(treeOf(root)).toEqual(before);
    expect(await find('file is missing')).toHaveLength(0);
    expect(await find('name is k-2.jpg')).toEqual([ids[1]]);
  });
});

describe('numbers that go on', () => {
  it('are given once, however many ask for them', async () => {
    const [first, second] = await find('order name');
    const rename = (itemId: string) =>
      startRename(db(), null, {
        ...{ ...AS_WISHED, itemIds: asSeen([itemId]), pattern: 'No {counter 07 of "press"}' },
      });
    const both = await Promise.allSettled([rename(first!), rename(second!)]);
    const refused = both.filter(({ status }) => status === 'rejected');
    await idle(archive);
    for (const one of refused) expect(one).toMatchObject({ reason: { code: 'conflict' } });
    const rest = await Promise.all(
      both.flatMap(({ status }, at) =>
        status === 'rejected' ? [rename([first!, second!][at]!)] : [],
      ),
    );
    await idle(archive);
    const names = paths().filter((path) => path.includes('/No 0') && path.endsWith('.jpg'));
    expect(names).toEqual(['Loose/one/No 07.jpg', 'Loose/one/No 08.jpg']);
    const done = [
      ...both.flatMap((one) => (one.status === 'fulfilled' ? [one.value] : [])),
      ...rest,
    ];
    for (const operation of done.reverse()) await back(operation);
    expect(paths()[0]).toBe('Loose/one/k-1.jpg');
  });
});

describe('kept patterns', () => {
  it('are listed by name, replaced under one name in any case, and forgotten', async () => {
    const keep = (name: string, pattern: string, purpose: 'naming' | 'filing' = 'naming') =>
      keepPattern(db(), null, { purpose, name, pattern, choices: { clash: 'number' } });
    const id = await keep('Press', '{counter 1}');
    await keep('Album', '{name}');
    await keep('By year', '{taken yyyy}/x', 'filing');
    expect(await keep(' press ', '{counter 01}')).toBe(id);
    const all = await keptPatterns(db(), 'naming');
    expect(all.map(({ name, pattern }) => [name, pattern])).toEqual([
      ['Album', '{name}'],
      ['press', '{counter 01}'],
    ]);
    expect(all[1]!.choices).toEqual({ clash: 'number' });
    expect(await keptPatterns(db(), 'filing')).toHaveLength(1);
    await expect(keep('Bad', '{nothing so}')).rejects.toMatchObject({ code: 'pattern-unclear' });
    await forgetPattern(db(), null, id);
    await expect(forgetPattern(db(), null, id)).rejects.toMatchObject({ code: 'not-found' });
    expect(await keptPatterns(db(), 'naming')).toHaveLength(1);
  });
});

describe('another place', () => {
  let small = '';
  let other: Place;
  beforeAll(async () => {
    small = join(archive.folder, 'other disk');
    mkdirSync(small);
    execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=8m', 'tmpfs', small]);
    other = await addPlace(archive.house, 'Other', small);
    await setPlace(archive.house, other.id, { watched: false });
  });
  afterAll(() => execFileSync('umount', [small]));

  it('on another disk gets verified copies, and nothing is left behind; undo brings all back', async () => {
    const before = treeOf(root);
    const into = { placeId: other.id, path: 'Brought' };
    const operation = await file({ pattern: '{taken yyyy}', into });
    expect(paths()).toEqual([]);
    expect(paths(small)).toHaveLength(6);
    expect(Object.values(treeOf(small)).sort()).toEqual(Object.values(before).sort());
    expect(await find('in Other')).toHaveLength(5);
    // Whoever looks at both disks now finds nothing new, nothing missing.
    await setPlace(archive.house, other.id, { watched: true });
    await askToCompare(archive.house, other);
    await idle(archive);
    await setPlace(archive.house, other.id, { watched: false });
    expect(await find('')).toHaveLength(5);
    expect(await find('file is missing')).toHaveLength(0);
    await back(operation);
    expect(treeOf(root)).toEqual(before);
    expect(paths(small)).toEqual([]);
  });

  it('that is full keeps what it has no room for where it was', async () => {
    const free = Number(
      execFileSync('df', ['--output=avail', '-B1', small], { encoding: 'utf8' }).split('\n')[1],
    );
    writeFileSync(join(small, 'ballast'), Buffer.alloc(free - 12_288));
    const before = treeOf(root);
    const operation = await file({ pattern: '', into: { placeId: other.id, path: '' } });
    const steps = await operationSteps(db(), HOUSE, operation);
    expect(steps.some(({ state, reason }) => state === 'failed' && /full/.test(reason!))).toBe(
      true,
    );
    const there = { ...treeOf(root), ...treeOf(small) };
    delete there['ballast'];
    expect(Object.values(there).sort()).toEqual(Object.values(before).sort());
    expect(readdirSync(small).some((name) => name.endsWith('.part'))).toBe(false);
    await back(operation).catch(() => undefined);
    expect(treeOf(root)).toEqual(before);
  });
});

describe('a bundle with folders of its own', () => {
  it('goes with all of them, leaves none behind, and comes back the same', async () => {
    const card = join(archive.folder, 'layouts');
    for (const path of ['Chapter 2/layout.pdf', 'Chapter 2/Links/a.jpg', 'Chapter 2/Fonts/b.jpg'])
      await writeJpeg(join(card, path), path.length);
    const shelf = await placeNamed(archive, 'Layouts');
    await bringIn(archive, card, {
      ...{ mode: 'copy', place: shelf, filing: 'In', naming: '{name}' },
      files: bundled(await filesToBring(card), ['Chapter 2']),
    });
    await setPlace(archive.house, shelf.id, { watched: false });
    const folders = (): string[] =>
      readdirSync(shelf.root, { recursive: true, encoding: 'utf8', withFileTypes: true })
        .filter((one) => one.isDirectory() && !one.name.startsWith('.') && one.name !== MHL_FOLDER)
        .map((one) => join(one.parentPath, one.name))
        .sort();
    const [tree, before] = [treeOf(shelf.root), folders()];
    const query = 'in Layouts; kind bundle';
    const asked = wish(await find(query), { pattern: 'Filed' });
    expect((await filingPreview(db(), asked)).emptied.sort()).toEqual([
      ...['Layouts/In', 'Layouts/In/Chapter 2', 'Layouts/In/Chapter 2/Fonts'],
      'Layouts/In/Chapter 2/Links',
    ]);
    const operation = await file({ pattern: 'Filed' }, query);
    expect(existsSync(join(shelf.root, 'In'))).toBe(false);
    expect(Object.keys(treeOf(shelf.root))).toContain('Filed/Chapter 2/Links/a.jpg');
    await back(operation);
    expect([treeOf(shelf.root), folders()]).toEqual([tree, before]);
  });
});

describe('a plan', () => {
  it('stays in its place: parts of its pattern that are no folders are refused before anything is made', async () => {
    const before = readdirSync(join(root, '..')).sort();
    for (const pattern of [
      '../outside',
      './x',
      'a/../../b',
      '.hidden/x',
      '..',
      'a/ . /b',
      'con/x',
    ]) {
      const asked = wish(await find('order name'), { pattern });
      await expect(filingPreview(db(), asked)).rejects.toMatchObject({ code: 'name-refused' });
      await expect(startFiling(db(), null, asked)).rejects.toMatchObject({ code: 'name-refused' });
    }
    expect(readdirSync(join(root, '..')).sort()).toEqual(before);
    for (const folder of ['../outside', 'a/../b', 'a//b', './x'])
      await expect(makeFolderInside(root, folder)).rejects.toMatchObject({ code: 'outside-place' });
    symlinkSync(archive.home, join(root, 'leads away'));
    await expect(makeFolderInside(root, 'leads away/x')).rejects.toMatchObject({
      code: 'outside-place',
    });
    rmSync(join(root, 'leads away'));
  });

  it('makes folders of odd values as far as they can be names', async () => {
    const [id] = await find('order name');
    await changeRecords(db(), null, asSeen([id!]), { title: '..', event: 'Acme Inc. ' });
    await idle(archive);
    const { tree } = await filingPreview(
      db(),
      wish([id!], { pattern: '{event}/{title}', missing: 'known' }),
    );
    expect(tree.map(({ path }) => path)).toContain('Acme Inc');
    expect(tree.every(({ path }) => !path.includes('..'))).toBe(true);
    await changeRecords(db(), null, asSeen([id!]), { title: '', event: '' });
    await idle(archive);
  });

  it('ends, told, whatever throws while it is carried out', async () => {
    const asked = wish(await find('order name'), { pattern: 'Thrown/{taken yyyy}' });
    await archive.worker.stop();
    const operation = await startFiling(db(), null, asked);
    // A folder that no disk can make: what was noted by an older release, or by somebody else.
    await sql`update operation_step set after = jsonb_set(after, '{folder}', '"./x"') where operation_id = ${operation}::uuid`.execute(
      db(),
    );
    archive.worker = await startWorker(archive.house);
    await idle(archive);
    const line = (await ledger(db())).find(({ id }) => id === operation);
    expect(line?.state).not.toBe('doing');
    const steps = await operationSteps(db(), HOUSE, operation);
    expect(steps.every(({ state }) => state === 'failed' || state === 'done')).toBe(true);
    expect(steps.some(({ reason }) => reason !== null && !reason.includes(archive.folder))).toBe(
      true,
    );
  });
});
