import { existsSync, mkdirSync, readdirSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { beforeAll, describe, expect, it } from 'vitest';
import { WASTEBASKET, wasteName } from '#core/holdings/wastebasket';
import { HOUSE } from '#core/sight/viewer';
import { parseQuery } from '#core/query/grammar';
import { burstByHand } from '#server/lists/burstsByHand';
import { holdings } from '#server/catalogue/facets';
import { findIds, tilesOf } from '#server/catalogue/find';
import { showItem } from '#server/catalogue/show';
import { filesOf } from '#server/files/located';
import { heldItems } from '#server/intake/look/held';
import { verify } from '#server/intake/report/verify';
import { undo } from '#server/deeds/undo';
import { ledger } from '#server/ledger/ledger';
import { emptyFolders, removeEmptyFolders } from '#server/places/emptyFolders';
import type { Place } from '#server/places/places';
import { changeRecords } from '#server/records/records';
import { sendPage } from '#server/renditions/looking';
import { askToCompare } from '#server/watching/compare';
import { setPlace } from '#server/watching/manage';
import {
  emptyOld,
  emptyWastebasket,
  letGo,
  lettingGo,
  wasted,
} from '#server/wastebasket/wastebasket';
import { bringIn, filesIn, idle, KEEPER, placeNamed, useArchive } from '../support/archive';
import { jpeg, writeJpeg, xmpSidecar } from '../support/pictures';
import { asSeen } from '#server/sight/seen';

const archive = useArchive();
const db = () => archive.house.db;
let place: Place;
let root = '';
const folder = () => join(root, 'Shot');
const basket = (): string[] => filesIn(join(root, WASTEBASKET));
const find = (text: string): Promise<string[]> => findIds(db(), HOUSE, parseQuery(text));
const named = async (name: string): Promise<string> => (await find(`name is "${name}"`))[0]!;
async function gone(ids: string[]): Promise<string> {
  const { fingerprint } = await lettingGo(db(), asSeen(ids));
  const operation = await letGo(db(), null, asSeen(ids), fingerprint);
  await idle(archive);
  return operation;
}
async function back(operation: string): Promise<void> {
  await undo(db(), null, operation);
  await idle(archive);
}

beforeAll(async () => {
  place = await placeNamed(archive, 'Shelf');
  root = join(archive.folder, 'Shelf');
  // What the test lays there is nobody's arrival.
  await setPlace(archive.house, place.id, { watched: false });
  const source = join(archive.folder, 'card');
  mkdirSync(source);
  for (const at of [1, 2, 3, 4]) await writeJpeg(join(source, `k-${at}.jpg`), at);
  writeFileSync(join(source, 'k-1.xmp'), xmpSidecar());
  writeFileSync(join(source, 'twin of 2.jpg'), await jpeg(2));
  await bringIn(archive, source, { mode: 'copy', place, filing: 'Shot' });
}, 120_000);

describe('what is let go', () => {
  it('is told before: items, files, bytes, and of how many no other copy is held', async () => {
    const ids = await find('');
    const all = await lettingGo(db(), asSeen(ids));
    const names = filesIn(folder());
    expect(all).toMatchObject({ items: ids.length, handsOff: 0, notHere: 0 });
    expect(all.files).toBe(names.length);
    expect(all.bytes).toBe(
      names.reduce((sum, name) => sum + statSync(join(folder(), name)).size, 0),
    );
    expect(all.onlyCopies).toBe(ids.length);
    expect((await lettingGo(db(), asSeen([await named('k-2.jpg')]))).onlyCopies).toBe(0);
    expect((await lettingGo(db(), asSeen([await named('k-3.jpg')]))).onlyCopies).toBe(1);
  });

  it('leaves catalogue and folder with all that belongs to it, and comes back as it was', async () => {
    const id = await named('k-1.jpg');
    const before = filesIn(folder());
    const operation = await gone([id]);
    expect(await find('name is k-1.jpg')).toEqual([]);
    expect(filesIn(folder()).filter((name) => name.startsWith('k-1'))).toEqual([]);
    expect(basket()).toHaveLength(before.filter((name) => name.startsWith('k-1')).length);
    await expect(showItem(db(), KEEPER, id)).rejects.toMatchObject({ code: 'not-found' });
    // It is held no more: the same brought in again is new.
    const { contentHash } = await db()
      .selectFrom('file')
      .select('contentHash')
      .where('itemId', '=', id)
      .where('role', '=', 'original')
      .executeTakeFirstOrThrow();
    expect(await heldItems(db(), [{ content: contentHash, essence: null }])).toEqual([undefined]);
    expect((await wasted(db())).lines).toMatchObject([{ id: operation, items: 1 }]);
    expect((await holdings(db(), HOUSE, parseQuery(''))).map(({ path }) => path)).not.toContain(
      WASTEBASKET,
    );
    await back(operation);
    expect(filesIn(folder())).toEqual(before);
    expect(basket()).toEqual([]);
    expect(await named('k-1.jpg')).toBe(id);
    expect((await wasted(db())).total).toBe(0);
    expect(await emptyFolders(db())).toEqual([]);
  });

  it('is bound to what was shown', async () => {
    const id = await named('k-3.jpg');
    const { fingerprint } = await lettingGo(db(), asSeen([id]));
    await expect(
      letGo(db(), null, asSeen([id, await named('k-4.jpg')]), fingerprint),
    ).rejects.toMatchObject({
      code: 'conflict',
    });
  });

  it('is the same after a record was written into it, not after another picture took its name', async () => {
    const id = await named('k-3.jpg');
    const shown = await lettingGo(db(), asSeen([id]));
    const hash = async () => (await filesOf(db(), [id]))[0]!.contentHash;
    const before = await hash();
    await changeRecords(db(), null, asSeen([id]), { rating: 3 });
    await idle(archive);
    expect(await hash()).not.toBe(before);
    expect((await lettingGo(db(), asSeen([id]))).fingerprint).toBe(shown.fingerprint);
    await writeJpeg(join(folder(), 'k-3.jpg'), 33);
    await askToCompare(archive.house, place);
    await idle(archive);
    await expect(letGo(db(), null, asSeen([id]), shown.fingerprint)).rejects.toMatchObject({
      code: 'conflict',
    });
    await writeJpeg(join(folder(), 'k-3.jpg'), 3);
    await askToCompare(archive.house, place);
    await idle(archive);
  });

  it('is no business of who watches the disk', async () => {
    const operation = await gone([await named('k-4.jpg')]);
    await askToCompare(archive.house, place);
    await idle(archive);
    const { state } = await db()
      .selectFrom('file as f')
      .innerJoin('operationStep as s', 's.fileId', 'f.id')
      .select('f.state')
      .where('s.operationId', '=', operation)
      .executeTakeFirstOrThrow();
    expect(state).toBe('present');
    await back(operation);
    expect(await find('name is k-4.jpg')).toHaveLength(1);
  });

  it('comes back where its folder is gone; not where another file has its name', async () => {
    const ids = await find('folder "Shelf/Shot"');
    const operation = await gone(ids);
    const { id: folderId } = await db()
      .selectFrom('folder')
      .select('id')
      .where('path', '=', 'Shot')
      .executeTakeFirstOrThrow();
    rmSync(folder(), { recursive: true });
    await expect(removeEmptyFolders(db(), null, folderId)).resolves.toMatchObject({ removed: 1 });
    mkdirSync(folder());
    writeFileSync(join(folder(), 'k-3.jpg'), 'somebody else');
    await back(operation);
    const [line] = await ledger(db());
    expect(line).toMatchObject({ state: 'done', failed: 1 });
    expect(await find('')).toHaveLength(ids.length - 1);
    expect((await wasted(db())).lines).toMatchObject([{ id: operation, items: 1, files: 1 }]);
    rmSync(join(folder(), 'k-3.jpg'));
    // What was given back in part is given back again, until nothing is left.
    await back(operation);
    expect(await find('')).toHaveLength(ids.length);
    await expect(undo(db(), null, operation)).rejects.toMatchObject({ code: 'conflict' });
  });

  it('keeps what belongs together together: where the original cannot come back, its sidecar does not', async () => {
    const id = await named('k-1.jpg');
    const operation = await gone([id]);
    const lying = basket().length;
    expect(lying).toBe(2);
    writeFileSync(join(folder(), 'k-1.jpg'), 'somebody else');
    await back(operation);
    expect(basket()).toHaveLength(lying);
    expect((await ledger(db()))[0]).toMatchObject({ failed: 2 });
    rmSync(join(folder(), 'k-1.jpg'));
    await back(operation);
    expect(basket()).toEqual([]);
  });

  it('is shown to nobody, and listed once however often it came and went', async () => {
    const id = await named('k-1.jpg');
    const request = new Request('http://archive/');
    expect(
      await sendPage(archive.house, HOUSE, request, id, 1).catch((error: unknown) => error),
    ).toMatchObject({
      message: 'This item does not have pages.',
    });
    const first = await gone([id]);
    await expect(sendPage(archive.house, HOUSE, request, id, 1)).rejects.toMatchObject({
      message: 'There is no such item.',
    });
    const given = await undo(db(), null, first);
    await idle(archive);
    await back(given);
    expect((await wasted(db())).lines).toHaveLength(1);
    const again = (await wasted(db())).lines[0]!;
    expect([again.items, again.files]).toEqual([1, 2]);
    await back(again.id);
    expect(await named('k-1.jpg')).toBe(id);
  });

  it('leaves one of a burst to stand for the others', async () => {
    const [one, two, four] = [
      await named('k-1.jpg'),
      await named('k-2.jpg'),
      await named('k-4.jpg'),
    ];
    await burstByHand(db(), { id: null, viewer: HOUSE }, asSeen([one!, two!, four!]), 'fold');
    const operation = await gone([one!]);
    const tiles = await tilesOf(db(), HOUSE, [two!, four!]);
    expect(tiles.map(({ burstSize }) => burstSize)).toEqual([2, 2]);
    expect(tiles.filter(({ burstLead }) => burstLead)).toHaveLength(1);
    await back(operation);
    const all = await tilesOf(db(), HOUSE, [one!, two!, four!]);
    expect(all.map(({ burstSize }) => burstSize)).toEqual([3, 3, 3]);
    expect(all.filter(({ burstLead }) => burstLead)).toHaveLength(1);
  });

  it('stays in places that are hands off', async () => {
    await setPlace(archive.house, place.id, { handsOff: true });
    const ids = await find('');
    expect(await lettingGo(db(), asSeen(ids))).toMatchObject({ items: 0, handsOff: ids.length });
    await expect(letGo(db(), null, asSeen(ids))).rejects.toMatchObject({ code: 'not-found' });
    await setPlace(archive.house, place.id, { handsOff: false });
  });
});

describe('the wastebasket', () => {
  it('is emptied for good: one step, then all; the ledger says so and gives nothing back', async () => {
    const first = await gone([await named('k-2.jpg')]);
    const second = await gone([await named('k-4.jpg')]);
    const size = basket().length;
    const one = await emptyWastebasket(archive.house, null, first);
    expect(one).toMatchObject({ files: 1, kept: 0 });
    expect(basket()).toHaveLength(size - 1);
    await expect(undo(db(), null, first)).rejects.toMatchObject({ code: 'conflict' });
    expect((await ledger(db())).find(({ id }) => id === first)!.canUndo).toBe(false);
    await back(second);
    expect(existsSync(join(folder(), 'k-4.jpg'))).toBe(true);
    await emptyWastebasket(archive.house, null, null);
    // A manifest lists it for ever; that it is gone is no damage.
    expect(await verify(archive.house, null)).toMatchObject({ letGo: 1, missing: [], damaged: [] });
    expect(basket()).toEqual([]);
    expect(await emptyWastebasket(archive.house, null, null)).toMatchObject({ files: 0 });
    expect(existsSync(join(folder(), 'k-4.jpg'))).toBe(true);
  });

  it('empties itself only where a time is set, and only what is older', async () => {
    const operation = await gone([await named('k-4.jpg')]);
    await emptyOld(archive.house, 0);
    await emptyOld(archive.house, 2);
    expect((await wasted(db())).lines).toMatchObject([{ id: operation }]);
    const later = new Date(Date.now() + 3 * 86_400_000);
    await emptyOld({ ...archive.house, now: () => later }, 2);
    expect((await wasted(db())).total).toBe(0);
    expect(basket()).toEqual([]);
  });

  it('gives names that every disk takes, none twice', () => {
    const long = `${'é'.repeat(125)}.jpg`;
    const name = wasteName('0190c5a0-0000-7000-8000-0123456789ab', 7, long);
    expect(name).toBe('0123456789ab-7-file.jpg');
    expect(wasteName('0190c5a0-0000-7000-8000-0123456789ab', 8, 'a.jpg')).toBe(
      '0123456789ab-8-a.jpg',
    );
    expect(readdirSync(root).sort()).toContain(WASTEBASKET);
  });
});
