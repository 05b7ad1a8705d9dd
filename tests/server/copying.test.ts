import { existsSync, mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { sql } from 'kysely';
import { beforeAll, describe, expect, it } from 'vitest';
import { HOUSE } from '#core/sight/viewer';
import { stepWords } from '#core/ledger/told';
import { parseQuery } from '#core/query/grammar';
import { findIds } from '#server/catalogue/find';
import { resumeOperations } from '#server/ledger/carryOut';
import { laterChanges } from '#server/deeds/many';
import { undo } from '#server/deeds/undo';
import { operationSteps } from '#server/ledger/ledger';
import { filingPreview, startFiling, type FilingWish } from '#server/naming/filing';
import { startRename } from '#server/naming/rename';
import type { Place } from '#server/places/places';
import { askToCompare } from '#server/watching/compare';
import { setPlace } from '#server/watching/manage';
import { letGo } from '#server/wastebasket/wastebasket';
import { bringIn, idle, placeNamed, treeOf, useArchive } from '../support/archive';
import { AS_WISHED } from '../support/naming';
import { writeJpeg, xmpSidecar } from '../support/pictures';
import { asSeen } from '#server/sight/seen';

const TAKEN = { DateTimeOriginal: '2026:09:12 10:00:00' };
const archive = useArchive();
const db = () => archive.house.db;
let [shelf, depot]: Place[] = [];
let [root, away] = ['', ''];
const find = (text: string): Promise<string[]> => findIds(db(), HOUSE, parseQuery(text));
const wish = (itemIds: string[], over: Partial<FilingWish> = {}): FilingWish => ({
  ...{
    viewer: HOUSE,
    itemIds: asSeen(itemIds),
    pattern: '{taken yyyy}',
    missing: 'leave',
    fallback: '-',
  },
  ...{ copies: true, into: { placeId: depot!.id, path: 'Press' }, clash: 'refuse' },
  ...{ removeEmptied: true, naming: { pattern: 'p{counter 01}', extension: 'keep' } },
  ...over,
});
async function copy(over: Partial<FilingWish> = {}): Promise<string> {
  const asked = wish(await find('order name'), over);
  const { fingerprint } = await filingPreview(db(), asked);
  const operation = await startFiling(db(), null, { ...asked, fingerprint });
  await idle(archive);
  return operation;
}
async function back(operation: string): Promise<string> {
  const undone = await undo(db(), null, operation);
  await idle(archive);
  return undone;
}
const failures = async (operation: string): Promise<string[]> =>
  (await operationSteps(db(), HOUSE, operation)).flatMap(({ reason }) => reason ?? []);
const here = (): Record<string, string> => treeOf(root);
const there = (): Record<string, string> => treeOf(away);

beforeAll(async () => {
  shelf = await placeNamed(archive, 'Shelf');
  depot = await placeNamed(archive, 'Depot');
  [root, away] = [shelf.root, depot.root];
  for (const { id } of [shelf, depot]) await setPlace(archive.house, id, { watched: false });
  const source = join(archive.folder, 'card');
  mkdirSync(source);
  for (const at of [1, 2, 3]) await writeJpeg(join(source, `k-${at}.jpg`), at, TAKEN);
  writeFileSync(join(source, 'k-1.xmp'), xmpSidecar());
  await bringIn(archive, source, { mode: 'copy', place: shelf, filing: 'In' });
}, 120_000);

describe('copies elsewhere', () => {
  it('are laid under new names with what belongs to them, while every file stays', async () => {
    const before = here();
    const shown = await filingPreview(db(), wish(await find('order name')));
    expect(shown).toMatchObject({ changed: 3, files: 4, stays: 0, made: 2, emptied: [] });
    expect(shown.bytes).toBeGreaterThan(1000);
    expect(shown.free).toBeGreaterThan(shown.bytes);
    const operation = await copy();
    expect(here()).toEqual(before);
    expect(Object.keys(there())).toEqual(
      ['p01.jpg', 'p01.jpg.xmp', 'p02.jpg', 'p03.jpg'].map((name) => `Press/2026/${name}`),
    );
    expect(Object.values(there()).sort()).toEqual(Object.values(before).sort());
    expect(await find('copies 2..')).toHaveLength(3);
    const [first] = await operationSteps(db(), HOUSE, operation);
    expect(stepWords(first!.before, first!.after)).toEqual({
      before: 'Shelf/In/k-1.jpg',
      after: 'copied to Depot/Press/2026/p01.jpg',
    });
    // Whoever looks at the disk now finds nothing new, nothing missing.
    await setPlace(archive.house, depot!.id, { watched: true });
    await askToCompare(archive.house, depot!);
    await idle(archive);
    await setPlace(archive.house, depot!.id, { watched: false });
    expect([await find(''), await find('file is missing')].map(({ length }) => length)).toEqual([
      3, 0,
    ]);
    const again = await filingPreview(db(), wish(await find('order name')));
    expect([again.changed, again.stays]).toEqual([0, 3]);

    const undone = await back(operation);
    expect([existsSync(join(away, 'Press')), here()]).toEqual([false, before]);
    expect(await find('copies 2..')).toHaveLength(0);
    const [gone] = await operationSteps(db(), HOUSE, undone);
    expect(stepWords(gone!.before, gone!.after)).toEqual({
      before: 'copy Depot/Press/2026/p01.jpg',
      after: 'taken away',
    });
    const redone = await back(undone);
    expect(Object.values(there()).sort()).toEqual(Object.values(before).sort());
    await back(redone);
    expect(there()).toEqual({});
  });

  it('that another program wrote into stay, and so does the last one there is', async () => {
    const operation = await copy();
    writeFileSync(join(away, 'Press/2026/p02.jpg'), 'somebody’s');
    rmSync(join(root, 'In/k-3.jpg'));
    const undone = await back(operation);
    expect(await failures(undone)).toEqual([
      expect.stringContaining('not what was copied'),
      expect.stringContaining('itself is missing'),
      expect.stringContaining('not empty'),
      expect.stringContaining('not empty'),
    ]);
    expect(Object.keys(there())).toEqual(['Press/2026/p02.jpg', 'Press/2026/p03.jpg']);
    await writeJpeg(join(root, 'In/k-3.jpg'), 3, TAKEN);
    rmSync(away, { recursive: true });
    mkdirSync(away);
    await db().deleteFrom('file').where('role', '=', 'second-copy').execute();
  });

  it('are refused names that are taken, also beside the file itself, or told apart', async () => {
    const into = { placeId: shelf!.id, path: 'In' };
    const same = { into, pattern: '', naming: undefined };
    const shown = await filingPreview(db(), wish(await find('order name'), same));
    expect(shown.problems).toBe(3);
    const operation = await copy({ ...same, clash: 'number' });
    expect(Object.keys(here())).toContain('In/k-1-2.jpg.xmp');
    expect(Object.keys(here())).toHaveLength(8);
    // A plan that moves the files leaves their copies where they lie.
    const moved = await copy({
      copies: false,
      into: { ...into, path: 'Out' },
      pattern: '',
      naming: undefined,
    });
    expect(Object.keys(here()).filter((path) => path.startsWith('In'))).toHaveLength(4);
    await back(moved);
    await back(operation);
    expect(Object.keys(here())).toHaveLength(4);
  });

  it('are read from hands-off places, and never written there', async () => {
    await setPlace(archive.house, shelf!.id, { handsOff: true });
    const operation = await copy();
    expect(Object.keys(there())).toHaveLength(4);
    const into = { placeId: shelf!.id, path: 'No' };
    await expect(filingPreview(db(), wish(await find(''), { into }))).rejects.toThrow('hands off');
    await setPlace(archive.house, shelf!.id, { handsOff: false });
    await back(operation);
  });

  it('that were laid and not noted when the work was cut off are found, none is laid twice', async () => {
    const operation = await copy();
    const before = there();
    // As a kill between the disk and the database leaves it.
    await db().deleteFrom('file').where('role', '=', 'second-copy').execute();
    await sql`update operation_step set state = 'doing' where operation_id = ${operation}
      and file_id in (select id from file where role = 'original')`.execute(db());
    await db()
      .updateTable('operation')
      .set({ state: 'doing' })
      .where('id', '=', operation)
      .execute();
    await resumeOperations(archive.house);
    await idle(archive);
    expect(await failures(operation)).toEqual([]);
    expect(there()).toEqual(before);
    expect(await find('copies 2..')).toHaveLength(3);
    await back(operation);
  });

  it('that were renamed since stand in the way, with what renamed them', async () => {
    const operation = await copy();
    const renamed = await startRename(db(), null, {
      ...AS_WISHED,
      ...{ itemIds: asSeen((await find('order name')).slice(0, 1)), pattern: 'other {name}' },
    });
    await idle(archive);
    const { rows } = await sql<{ count: number }>`select count(*)::int as count from file
      where role = 'second-copy' and name like 'other%'`.execute(db());
    const later = await laterChanges(db(), operation);
    expect(later.map(({ id }) => id)).toEqual(rows[0]!.count > 0 ? [renamed] : []);
    await back(renamed);
    await back(operation);
    expect(there()).toEqual({});
  });

  it('go into the wastebasket with their item, and come back', async () => {
    const operation = await copy();
    const before = [here(), there()];
    const ids = await find('order name');
    const wasted = await letGo(db(), null, asSeen(ids));
    await idle(archive);
    expect([here(), there()]).toEqual([{}, {}]);
    await back(wasted);
    expect([here(), there()]).toEqual(before);
    await back(operation);
  });

  it('need room: what does not fit is refused before anything is laid', async () => {
    const asked = wish(await find('order name'));
    await sql`update file set size = ${1_000_000_000_000_000}`.execute(db());
    await expect(startFiling(db(), null, asked)).rejects.toMatchObject({ code: 'disk-full' });
    expect(there()).toEqual({});
  });
});
