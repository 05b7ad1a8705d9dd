import { execFileSync } from 'node:child_process';
import { existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { beforeAll, describe, expect, it } from 'vitest';
import { parseQuery } from '#core/query/grammar';
import { HOUSE } from '#core/sight/viewer';
import { findIds, findTiles } from '#server/catalogue/find';
import { showItem } from '#server/catalogue/show';
import { undo } from '#server/deeds/undo';
import { ledger, operationSteps } from '#server/ledger/ledger';
import { AS_WISHED } from '../support/naming';
import { renameOne, renamePreview, startRename } from '#server/naming/rename';
import { changeRecords, readRecords } from '#server/records/records';
import { startWorker } from '#server/work/worker';
import { KEEPER, bringIn, filesIn, idle, placeNamed, until, useArchive } from '../support/archive';
import { exiv2, jpeg, pixelsOf, setTags, writeJpeg, older } from '../support/pictures';
import { asSeen } from '#server/sight/seen';

const archive = useArchive();
let root = '';
const idOf = async (name: string): Promise<string> =>
  (await findIds(archive.house.db, HOUSE, parseQuery(`words "${name}"`)))[0]!;
const db = () => archive.house.db;

beforeAll(async () => {
  const source = join(archive.folder, 'source');
  await writeJpeg(join(source, 'plain.jpg'), 1, {
    'EXIF:DateTimeOriginal': '2026:09:12 10:00:00',
    'EXIF:Model': 'Heron 5',
  });
  await writeJpeg(join(source, 'legacy.jpg'), 2, {
    'IPTC:Headline': 'kept',
    'IPTC:Credit': 'old',
    'IPTC:Keywords': 'harbour',
  });
  await writeJpeg(join(source, 'third.jpg'), 3, { 'EXIF:DateTimeOriginal': '2026:09:13 10:00:00' });
  writeFileSync(
    join(source, 'pattern.svg'),
    '<svg xmlns="http://www.w3.org/2000/svg" width="20" height="20"/>',
  );
  const place = await placeNamed(archive, 'Shelf');
  root = place.root;
  await bringIn(archive, source, { mode: 'copy', place });
});

describe('describing', () => {
  it('shows at once and is written into the JPEG, which exiv2 reads, its pixels the same to the bit', async () => {
    const id = await idOf('plain');
    const path = join(root, 'plain.jpg');
    const pixels = await pixelsOf(path);
    await changeRecords(db(), null, asSeen([id]), {
      title: 'Box kite over the groyne',
      caption: 'Zweizellig – “ruhig” & <steady>\nsecond line',
      creator: ['Bea Lund', 'Ines Harrow'],
      creditLine: 'Bea Lund / Saltreach Kites',
      copyrightNotice: '© 2026 Saltreach Kites',
      addTerms: ['Box kite under Kite', 'Dusk'],
      rating: 4,
      stage: 'With retoucher',
      taken: '2026-09-12 19:42:07 +01:00',
    });
    const [record] = await readRecords(db(), [id]);
    expect(record!.values).toMatchObject({
      title: 'Box kite over the groyne',
      terms: ['Box kite', 'Dusk'],
      rating: 4,
      stage: 'With retoucher',
    });
    expect((await showItem(db(), KEEPER, id)).writing).not.toBe('failed');
    await idle(archive);
    expect(await showItem(db(), KEEPER, id)).toMatchObject({
      writing: 'written',
      writeProblem: null,
    });
    const found = exiv2(path);
    expect(found).toMatchObject({
      'Xmp.dc.title': 'lang="x-default" Box kite over the groyne',
      'Xmp.dc.creator': 'Bea Lund, Ines Harrow',
      [older('Credit')]: 'Bea Lund / Saltreach Kites',
      'Xmp.dc.rights': 'lang="x-default" © 2026 Saltreach Kites',
      'Xmp.dc.subject': 'Box kite, Dusk',
      'Xmp.xmp.Rating': '4',
      'Xmp.xmp.Label': 'With retoucher',
      [older('DateCreated')]: '2026-09-12T19:42:07+01:00',
      'Exif.Image.Artist': 'Bea Lund; Ines Harrow',
      'Exif.Photo.DateTimeOriginal': '2026:09:12 19:42:07',
      'Exif.Photo.OffsetTimeOriginal': '+01:00',
      'Exif.Image.Model': 'Heron 5',
    });
    expect(found['Exif.Image.ImageDescription']).toContain('Zweizellig – “ruhig” & <steady>');
    expect(Object.keys(found).some((key) => key.startsWith('Iptc.'))).toBe(false);
    expect((await pixelsOf(path)).equals(pixels)).toBe(true);
  });

  it('keeps IIM in step where a file has it', async () => {
    const id = await idOf('legacy');
    expect((await readRecords(db(), [id]))[0]!.values).toMatchObject({
      creditLine: 'old',
      terms: ['harbour'],
    });
    await changeRecords(db(), null, asSeen([id]), {
      creditLine: 'Neue Quelle, mit Umlaut ä',
      addTerms: ['Möwe'],
    });
    await idle(archive);
    expect(exiv2(join(root, 'legacy.jpg'))).toMatchObject({
      'Iptc.Application2.Credit': 'Neue Quelle, mit Umlaut ä',
      'Iptc.Application2.Headline': 'kept',
      'Iptc.Application2.Keywords': 'harbour, Möwe',
      [older('Credit')]: 'Neue Quelle, mit Umlaut ä',
    });
  });

  it('writes a well-formed XMP sidecar beside what it does not embed in', async () => {
    const id = await idOf('pattern');
    const before = readFileSync(join(root, 'pattern.svg'));
    await changeRecords(db(), null, asSeen([id]), {
      title: 'Sail pattern',
      rating: 3,
      taken: '2026-09',
    });
    await idle(archive);
    expect(readFileSync(join(root, 'pattern.svg')).equals(before)).toBe(true);
    const sidecar = join(root, 'pattern.svg.xmp');
    execFileSync('xmllint', ['--noout', sidecar]);
    expect(exiv2(sidecar)).toMatchObject({
      'Xmp.dc.title': 'lang="x-default" Sail pattern',
      'Xmp.xmp.Rating': '3',
      [older('DateCreated')]: '2026-09',
    });
    await changeRecords(db(), null, asSeen([id]), { title: '' });
    await idle(archive);
    expect(exiv2(sidecar)['Xmp.dc.title']).toBeUndefined();
    expect((await showItem(db(), KEEPER, id)).files.map(({ role }) => role)).toEqual([
      'original',
      'sidecar',
    ]);
  });

  it('refuses dates that are none and changes made against an older record', async () => {
    const id = await idOf('plain');
    await expect(
      changeRecords(db(), null, asSeen([id]), { taken: 'yesterday' }),
    ).rejects.toMatchObject({
      code: 'value-refused',
    });
    await expect(
      changeRecords(db(), null, asSeen([id]), { rating: 1 }, { versions: { [id]: 1 } }),
    ).rejects.toMatchObject({ code: 'conflict' });
    expect(await changeRecords(db(), null, asSeen([id]), { rating: 4 })).toBeNull();
  });

  it('undoes records over many items and does them again', async () => {
    const ids = await findIds(db(), HOUSE, parseQuery('kind photo'));
    const before = await readRecords(db(), ids);
    const { operationId } = (await changeRecords(db(), null, ids, {
      creditLine: 'All the same',
      removeTerms: ['Dusk'],
    }))!;
    await idle(archive);
    const undone = await undo(db(), null, operationId);
    await idle(archive);
    const values = (records: typeof before) =>
      records.map(({ id, values: found }) => [id, found]).sort();
    expect(values(await readRecords(db(), ids))).toEqual(values(before));
    expect(exiv2(join(root, 'legacy.jpg'))[older('Credit')]).toBe('Neue Quelle, mit Umlaut ä');
    await expect(undo(db(), null, operationId)).rejects.toMatchObject({ code: 'conflict' });
    await undo(db(), null, undone);
    expect(
      (await readRecords(db(), ids)).every((record) => record.values.creditLine === 'All the same'),
    ).toBe(true);
    await idle(archive);
  });
});

describe('renaming', () => {
  const names = (): string[] => filesIn(root);

  it('shows every name before and after and marks collisions', async () => {
    const ids = await findIds(db(), HOUSE, parseQuery('kind photo; order name'));
    const preview = await renamePreview(db(), { itemIds: ids, pattern: 'same', ...AS_WISHED });
    expect(preview.problems).toBe(ids.length);
    await expect(
      startRename(db(), null, { itemIds: ids, pattern: 'same', ...AS_WISHED }),
    ).rejects.toMatchObject({ code: 'name-refused' });
    await expect(
      startRename(db(), null, { itemIds: ids, pattern: 'a/b', ...AS_WISHED, clash: 'number' }),
    ).rejects.toMatchObject({ code: 'name-refused' });
    const held = await renamePreview(db(), {
      itemIds: asSeen(ids.slice(0, 1)),
      pattern: 'third',
      ...AS_WISHED,
    });
    expect(held.lines[0]!.problem).toContain('there already');
  });

  it('renames files with their sidecars, and undo gives every name back, also after a restart', async () => {
    const before = names();
    const ids = await findIds(db(), HOUSE, parseQuery('order name'));
    await startRename(db(), null, { itemIds: ids, pattern: 'SLT-{counter 01}', ...AS_WISHED });
    await idle(archive);
    expect(names().filter((name) => !/^SLT-\d\d\.(jpg|svg|svg\.xmp)$/.test(name))).toEqual([]);
    expect(names().some((name) => name.endsWith('.svg.xmp'))).toBe(true);
    expect((await findTiles(db(), HOUSE, parseQuery('words SLT'), 0, 50)).length).toBe(ids.length);
    const [line] = await ledger(db());
    expect(line).toMatchObject({ kind: 'rename', state: 'done', failed: 0, canUndo: true });
    expect((await operationSteps(db(), HOUSE, line!.id)).length).toBe(before.length);
    await archive.worker.stop();
    await undo(db(), null, line!.id);
    archive.worker = await startWorker(archive.house);
    await idle(archive);
    expect(names()).toEqual(before);
    expect((await ledger(db()))[1]).toMatchObject({ undone: true, canUndo: false });
  });

  it('gives one file another name, its extension too, and says why not', async () => {
    const itemId = await idOf('plain');
    const one = (name: string, before = 'plain.jpg') =>
      renameOne(db(), null, { viewer: HOUSE, itemId, name, before });
    for (const [name, code] of [
      ['', 'name-refused'],
      ['a/b.jpg', 'name-refused'],
      ['third.jpg', 'name-refused'],
      ['plain.jpg', 'name-refused'],
    ] as const)
      await expect(one(name)).rejects.toMatchObject({ code });
    await expect(one('x.jpg', 'older.jpg')).rejects.toMatchObject({ code: 'conflict' });
    const operation = await one('{braces} and more.JPEG');
    await idle(archive);
    expect(names()).toContain('{braces} and more.JPEG');
    await undo(db(), null, operation);
    await idle(archive);
    const cased = await one('PLAIN.jpg');
    await idle(archive);
    expect(names()).toContain('PLAIN.jpg');
    await undo(db(), null, cased);
    await idle(archive);
    expect(names()).toContain('plain.jpg');
  });

  it('lets names trade places', async () => {
    const [plain, third] = [await idOf('plain'), await idOf('third')];
    await changeRecords(db(), null, asSeen([plain]), { title: 'third' });
    await changeRecords(db(), null, asSeen([third]), { title: 'plain' });
    await idle(archive);
    const bytes = readFileSync(join(root, 'plain.jpg'));
    await startRename(db(), null, {
      itemIds: asSeen([plain, third]),
      pattern: '{title}',
      ...AS_WISHED,
    });
    await idle(archive);
    expect(readFileSync(join(root, 'third.jpg')).equals(bytes)).toBe(true);
  });

  it('fails one name that another program took meanwhile, and the rest goes on', async () => {
    const ids = await findIds(db(), HOUSE, parseQuery('kind photo; order name'));
    await archive.worker.stop();
    await startRename(db(), null, { itemIds: ids, pattern: 'Z{counter 1}', ...AS_WISHED });
    writeFileSync(join(root, 'Z2.jpg'), 'somebody else');
    archive.worker = await startWorker(archive.house);
    await idle(archive);
    const [line] = await ledger(db());
    expect(line).toMatchObject({ failed: 1, done: ids.length - 1 });
    expect(readFileSync(join(root, 'Z2.jpg'), 'utf8')).toBe('somebody else');
    expect(existsSync(join(root, 'Z1.jpg'))).toBe(true);
    const tiles = await findTiles(db(), HOUSE, parseQuery('kind photo'), 0, 50);
    for (const tile of tiles) expect(existsSync(join(root, tile.name))).toBe(true);
  });

  it('writes nothing into a place that is hands off', async () => {
    await db().updateTable('place').set({ handsOff: true }).execute();
    const ids = await findIds(db(), HOUSE, parseQuery('kind photo'));
    await expect(
      startRename(db(), null, { itemIds: ids, pattern: 'H{counter 1}', ...AS_WISHED }),
    ).rejects.toMatchObject({ code: 'not-allowed' });
    const file = join(
      root,
      (await findTiles(db(), HOUSE, parseQuery('kind photo'), 0, 1))[0]!.name,
    );
    const before = readFileSync(file);
    await changeRecords(db(), null, ids, { caption: 'not written' });
    await idle(archive);
    expect(readFileSync(file).equals(before)).toBe(true);
    expect((await showItem(db(), KEEPER, ids[0]!)).writeProblem).toContain('hands off');
    await db().updateTable('place').set({ handsOff: false }).execute();
  });

  it('reads tags that another program wrote as they stand', async () => {
    const path = join(archive.folder, 'other', 'elsewhere.jpg');
    await writeJpeg(path, 77);
    await setTags(path, {
      'XMP-dc:Title': 'From elsewhere',
      'XMP-xmp:Rating': '5',
      'XMP-xmp:Label': 'Their own stage',
    });
    await bringIn(archive, join(archive.folder, 'other'), {
      mode: 'copy',
      place: await placeNamed(archive, 'Shelf'),
    });
    expect((await readRecords(db(), [await idOf('elsewhere')]))[0]!.values).toMatchObject({
      title: 'From elsewhere',
      rating: 5,
      stage: 'Their own stage',
    });
  });
});

describe('a file that broke', () => {
  it('stays as it is; the record goes beside it once it was read again', async () => {
    const source = join(archive.folder, 'broken');
    await writeJpeg(join(source, 'broken.jpg'), 9);
    await bringIn(archive, source, { mode: 'copy', place: await placeNamed(archive, 'Shelf') });
    const id = await idOf('broken');
    const bytes = (await jpeg(9)).subarray(0, 300);
    writeFileSync(join(root, 'broken.jpg'), bytes);
    await until(
      async () =>
        (
          await db()
            .selectFrom('file')
            .select('essenceHash')
            .where('itemId', '=', id)
            .where('role', '=', 'original')
            .executeTakeFirstOrThrow()
        ).essenceHash === null,
      'the broken file to be read',
    );
    await idle(archive);
    await changeRecords(db(), null, asSeen([id]), { title: 'Told beside' });
    await idle(archive);
    expect(await showItem(db(), KEEPER, id)).toMatchObject({ writing: 'written' });
    expect(readFileSync(join(root, 'broken.jpg')).equals(bytes)).toBe(true);
    expect(exiv2(join(root, 'broken.jpg.xmp'))).toMatchObject({
      'Xmp.dc.title': 'lang="x-default" Told beside',
    });
    expect(readdirSync(root).filter((name) => name.startsWith('.mindful-'))).toEqual([]);
  });
});
