import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { sql } from 'kysely';
import { asSeen } from '#server/sight/seen';
import { describe, expect, it } from 'vitest';
import { formatPattern } from '#core/naming/grammar';
import { nameTrouble } from '#core/naming/names';
import { HOUSE } from '#core/sight/viewer';
import { undo } from '#server/deeds/undo';
import { operationSteps } from '#server/ledger/ledger';
import { startRename } from '#server/naming/rename';
import { setPlace } from '#server/watching/manage';
import { startWorker } from '#server/work/worker';
import { random } from '../../demo/paint/random';
import { fill } from '../../bench/compare';
import { idle, placeNamed, treeOf, useArchive } from '../support/archive';

/** Names that trade places, chains of them, and names no one expects, on a disk. */
const archive = useArchive({ worker: false });
const db = () => archive.house.db;
const COUNT = 10_000;
const wish = (itemIds: string[], pattern: string) => ({
  ...{
    viewer: HOUSE,
    itemIds: asSeen(itemIds),
    pattern,
    clash: 'refuse' as const,
    extension: 'keep' as const,
  },
});

interface Lying {
  itemId: string;
  folder: string;
  name: string;
}
const lying = async (): Promise<Lying[]> =>
  (
    await sql<Lying>`select f.item_id, d.path as folder, f.name from file f join folder d on d.id = f.folder_id
      order by d.path, length(f.name), f.name`.execute(db())
  ).rows;
/** Let each item be called by its title from now on. */
const entitle = (titles: { id: string; title: string }[]) =>
  sql`update item set title = given.title from json_to_recordset(${JSON.stringify(titles)}::json)
    as given(id uuid, title text) where item.id = given.id`.execute(db());
const stem = (name: string): string => name.replace(/\.[^.]+$/, '');
const failures = async (operation: string): Promise<string[]> =>
  (await operationSteps(db(), HOUSE, operation)).flatMap(({ reason }) => reason ?? []);

describe('names', () => {
  let root = '';
  it(`of ${COUNT} files go round in circles, and back`, async () => {
    const place = await placeNamed(archive, 'Shelf');
    root = place.root;
    await setPlace(archive.house, place.id, { watched: false });
    await fill(archive.house, place, COUNT);
    archive.worker = await startWorker(archive.house);
    const before = treeOf(root);
    const all = await lying();
    const next = all.map(({ itemId, folder }, at) => {
      const first = all.findIndex((one) => one.folder === folder);
      const after = all[at + 1]?.folder === folder ? all[at + 1]! : all[first]!;
      return { id: itemId, title: stem(after.name) };
    });
    await entitle(next);
    const ids = all.map(({ itemId }) => itemId);
    const operation = await startRename(db(), null, wish(ids, '{title}'));
    await idle(archive);
    expect(await failures(operation)).toEqual([]);
    const after = treeOf(root);
    expect(Object.keys(after)).toEqual(Object.keys(before));
    expect(Object.values(after).sort()).toEqual(Object.values(before).sort());
    const now = new Map((await lying()).map((one) => [one.itemId, one]));
    const isTurned = (one: Lying): boolean => {
      const { folder, name } = now.get(one.itemId)!;
      const bytes = readFileSync(join(root, folder, name), 'utf8');
      return name !== one.name && bytes === `the content of ${one.folder}/${one.name}`;
    };
    expect(all.filter((one) => !isTurned(one))).toEqual([]);
    await undo(db(), null, operation);
    await idle(archive);
    expect(treeOf(root)).toEqual(before);
  }, 300_000);

  it('that others wait for are given up first, whichever order the files are in', async () => {
    const { int } = random(77);
    const shuffled = <T>(list: T[]): T[] => {
      const out = [...list];
      for (let at = out.length - 1; at > 0; at -= 1) {
        const other = int(0, at);
        [out[at], out[other]] = [out[other]!, out[at]!];
      }
      return out;
    };
    const before = treeOf(root);
    const some = (await lying()).filter(({ folder }) => folder === 'day 7').slice(0, 12);
    for (let round = 0; round < 25; round += 1) {
      // Some numbers move up by one, some down, some go to new names, some stay.
      const by = int(-1, 1);
      const names = some.map((_, at) => `n${at + by + (round % 3 === 0 ? int(0, 2) * 100 : 0)}`);
      await entitle(some.map(({ itemId }, at) => ({ id: itemId, title: names[at]! })));
      const ids = shuffled(some.map(({ itemId }) => itemId));
      const operation = await startRename(db(), null, wish(ids, '{title}')).catch(() => null);
      if (!operation) continue;
      await idle(archive);
      expect([round, await failures(operation)]).toEqual([round, []]);
      const called = new Map((await lying()).map(({ itemId, name }) => [itemId, stem(name)]));
      expect(some.map(({ itemId }) => called.get(itemId))).toEqual(names);
    }
    const back = some.map(({ itemId, name }) => ({ id: itemId, title: stem(name) }));
    await entitle(back);
    await startRename(
      db(),
      null,
      wish(
        some.map(({ itemId }) => itemId),
        '{title}',
      ),
    );
    await idle(archive);
    expect(treeOf(root)).toEqual(before);
  }, 120_000);

  it('that cannot be had, nor the old ones any more, leave nothing where nobody looks', async () => {
    const [first, second] = (await lying()).filter(({ folder }) => folder === 'day 3');
    await archive.worker.stop();
    await entitle([
      { id: first!.itemId, title: 'wanted' },
      { id: second!.itemId, title: stem(first!.name) },
    ]);
    const ids = [first!.itemId, second!.itemId];
    const operation = await startRename(db(), null, wish(ids, '{title}'));
    const bytes = readFileSync(join(root, 'day 3', first!.name));
    writeFileSync(join(root, 'day 3', 'wanted.dat'), 'another program was faster');
    archive.worker = await startWorker(archive.house);
    await idle(archive);
    expect(await failures(operation)).toEqual([
      expect.stringMatching(/there already.* It is called “.*-2\.dat” now/),
    ]);
    const now = (await lying()).find(({ itemId }) => itemId === first!.itemId)!;
    expect(now.name).toBe(`${stem(first!.name)}-2.dat`);
    expect(readFileSync(join(root, 'day 3', now.name))).toEqual(bytes);
    expect(Object.keys(treeOf(root)).filter((path) => path.includes('.part'))).toEqual([]);
    await undo(db(), null, operation);
    await idle(archive);
    expect(existsSync(join(root, 'day 3', second!.name))).toBe(true);
  });

  it('that are odd are given as they are, byte for byte, or refused with the reason', async () => {
    const [one] = (await lying()).filter(({ folder }) => folder === 'day 5');
    mkdirSync(join(root, 'day 5'), { recursive: true });
    const before = treeOf(root);
    const given: string[] = [];
    for (const name of ODD) {
      const trouble = nameTrouble(name);
      const asked = { ...wish([one!.itemId], formatPattern([{ text: name }])) };
      const named = startRename(db(), null, { ...asked, extension: 'pattern' });
      if (trouble !== null || name === '') {
        await expect(named, JSON.stringify(name)).rejects.toMatchObject({
          code: expect.stringMatching(/name-refused|pattern-unclear/),
        });
        continue;
      }
      const operation = await named;
      await idle(archive);
      given.push(name);
      expect([name, await failures(operation)]).toEqual([name, []]);
      expect(Object.keys(treeOf(join(root, 'day 5')))).toContain(name);
      await undo(db(), null, operation);
      await idle(archive);
    }
    expect(ODD).toHaveLength(77);
    expect(given.length).toBeGreaterThan(35);
    expect(treeOf(root)).toEqual(before);
  }, 120_000);
});

const long = (bytes: number): string => `${'n'.repeat(bytes - 4)}.dat`;
const ODD = [
  ...[
    'a b.dat',
    'a  b.dat',
    ' a.dat',
    'a .dat',
    'a.dat ',
    'a.',
    'a..dat',
    '..a.dat',
    '.a',
    '.',
    '..',
  ],
  ...[
    '-rf',
    '--help',
    '-',
    '~',
    '$HOME',
    '`id`',
    '$(id)',
    '%20.dat',
    '%00.dat',
    '&amp;.dat',
    "it's.dat",
  ],
  ...[
    'a/b',
    'a\\b',
    'a:b',
    'a*b',
    'a?b',
    'a"b',
    'a<b',
    'a>b',
    'a|b',
    'a\nb',
    'a\tb',
    'a\u0000b',
    'a\u007fb',
  ],
  ...['CON', 'con.dat', 'Nul.txt', 'COM1.dat', 'lpt9', 'console.dat', 'com.dat', 'AUX', 'prn.a.b'],
  ...['é.dat', 'e\u0301.dat', 'ß.dat', 'ẞ.dat', 'İ.dat', 'ı.dat', 'ﬁ.dat', 'Å.dat', 'Å.dat'],
  ...[
    '凧.dat',
    'かもめ.dat',
    'عربي.dat',
    'עברית.dat',
    '🪁.dat',
    '👩‍👧.dat',
    'a\u200bb.dat',
    'a\u202eb.dat',
  ],
  ...[
    '\ud800.dat',
    'a\udc00',
    'a\u00a0b.dat',
    '\ufeffa.dat',
    'a;b.dat',
    'a,b.dat',
    '(a) [b] {c}.dat',
    '#1.dat',
  ],
  ...[
    '',
    ' ',
    '.dat',
    long(240),
    long(241),
    `${'é'.repeat(118)}.dat`,
    `${'é'.repeat(119)}.dat`,
    'a.b.c.d',
  ],
];
