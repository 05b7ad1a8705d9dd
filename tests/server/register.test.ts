import { existsSync, mkdirSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { parse } from 'csv-parse/sync';
import { beforeAll, describe, expect, it } from 'vitest';
import { IPTC_OLDER } from '#core/fields/namespaces';
import { HOUSE } from '#core/sight/viewer';
import { parseQuery } from '#core/query/grammar';
import { READING } from '#core/records/reading';
import {
  cellWords,
  columnsFrom,
  COLUMN_FIELDS,
  isPlain,
  moved,
  resized,
  toggled,
  USUAL_COLUMNS,
  WIDEST,
} from '#core/register/columns';
import { valueWritten } from '#core/records/written';
import { knownField } from '#core/fields/registry';
import { findIds } from '#server/catalogue/find';
import { cells } from '#server/catalogue/reading';
import { csvOf } from '#server/catalogue/sheet';
import { undo } from '#server/deeds/undo';
import { ensureFolder } from '#server/places/folderRows';
import type { Place } from '#server/places/places';
import { emptyFolders, removeEmptyFolders } from '#server/places/emptyFolders';
import { changeRecords, readRecords } from '#server/records/records';
import { enqueueReadAgain } from '#server/watching/readAgain';
import { bringIn, idle, placeNamed, useArchive } from '../support/archive';
import { writeJpeg } from '../support/pictures';
import { asSeen } from '#server/sight/seen';

const archive = useArchive();
const db = () => archive.house.db;
let place: Place;
let ids: string[] = [];

beforeAll(async () => {
  const source = join(archive.folder, 'source');
  await writeJpeg(join(source, 'a.jpg'), 1, {
    'XMP-dc:Title': 'Comma, "quotes"',
    [`${IPTC_OLDER}:Headline`]: '=1+1',
    'IFD0:Model': 'Heron 5',
  });
  await writeJpeg(join(source, 'b.jpg'), 2, { 'XMP-dc:Title': 'Plain' });
  await writeJpeg(join(source, 'c.jpg'), 3);
  place = await placeNamed(archive, 'Shelf');
  await bringIn(archive, source, { mode: 'copy', place });
  await db().updateTable('place').set({ watched: false }).execute();
  ids = await findIds(db(), HOUSE, parseQuery('order number'));
});

describe('columns', () => {
  it('are remembered as they were left; nonsense is left out', () => {
    expect(columnsFrom(undefined)).toEqual(USUAL_COLUMNS);
    expect(columnsFrom([])).toEqual(USUAL_COLUMNS);
    expect(
      columnsFrom([
        { key: 'iso', width: 9e9 },
        { key: 'iso' },
        { key: 'no such' },
        null,
        7,
        { key: 'words' },
      ]),
    ).toEqual([{ key: 'iso', width: WIDEST }]);
    const two = columnsFrom([
      { key: 'name', width: 100 },
      { key: 'iso', width: NaN },
    ]);
    expect(two.map(({ key }) => key)).toEqual(['name', 'iso']);
    expect(resized(two, 'name', -5)[0]!.width).toBeGreaterThan(0);
    expect(moved(two, 'iso', 0).map(({ key }) => key)).toEqual(['iso', 'name']);
    expect(moved(two, 'iso', 99).map(({ key }) => key)).toEqual(['name', 'iso']);
    expect(toggled(two, 'iso').map(({ key }) => key)).toEqual(['name']);
    expect(toggled(toggled(two, 'iso'), 'name')).toHaveLength(1);
  });

  it('say every value in words, and nothing where nothing is known', () => {
    const words = (key: string, value: unknown): string => cellWords(knownField(key), value);
    expect(words('exposure', 0.004)).toBe('1/250 s');
    expect(words('aperture', 2.8)).toBe('f/2.8');
    expect(words('duration', 42)).toBe('0:42');
    expect(words('bytes', 28_100_000)).toBe('28.1 MB');
    expect(words('kind', 'footage')).toBe('footage');
    expect(words('taken', '2026-09')).toBe('September 2026');
    expect(words('taken', '2026-09-12T19:42:00')).toContain('12 Sept 2026');
    expect(words('creator', ['Bea Lund', 'Jonas Reed'])).toBe('Bea Lund; Jonas Reed');
    for (const field of COLUMN_FIELDS)
      for (const nothing of [null, undefined, '']) expect(cellWords(field, nothing)).toBe('');
  });

  it('that are plain take what is written into them', () => {
    expect(isPlain(knownField('title'))).toBe(true);
    expect(isPlain(knownField('camera'))).toBe(false);
    expect(isPlain(knownField('terms'))).toBe(false);
    expect(valueWritten(knownField('creator'), ' Bea Lund ;; Jonas')).toEqual([
      'Bea Lund',
      'Jonas',
    ]);
    expect(valueWritten(knownField('rating'), '4')).toBe(4);
  });
});

describe('the register', () => {
  it('tells any fields of any stretch, in the order of the query', async () => {
    const keys = COLUMN_FIELDS.map(({ key }) => key);
    const query = parseQuery('order number down');
    const rows = await cells(archive.house, HOUSE, query, keys, 1, 2);
    expect(rows.map(({ id }) => id)).toEqual([...ids].reverse().slice(1, 3));
    const [last] = await cells(
      archive.house,
      HOUSE,
      query,
      ['title', 'headline', 'camera', 'colours'],
      2,
      5,
    );
    expect(last!.values).toMatchObject({
      title: 'Comma, "quotes"',
      headline: '=1+1',
      camera: 'Heron 5',
    });
    expect((last!.values['colours'] as string[]).length).toBeGreaterThan(0);
  });

  it('is copied out as CSV that a spreadsheet reads back, nothing of it a formula', async () => {
    let text = '';
    for await (const part of csvOf(archive.house, HOUSE, asSeen([ids[2]!, ids[0]!]), [
      'name',
      'title',
      'headline',
    ]))
      text += part;
    expect(parse(text)).toEqual([
      ['Name', 'Title', 'Headline'],
      ['c.jpg', '', ''],
      ['a.jpg', 'Comma, "quotes"', "'=1+1"],
    ]);
  });
});

describe('what older accessions did not read', () => {
  it('is read again in the background; what people said stays, and what is missing waits', async () => {
    const [a, b, c] = ids as [string, string, string];
    await changeRecords(db(), null, asSeen([b]), { title: 'Said by people' });
    await idle(archive);
    await db()
      .updateTable('item')
      .set({ reading: 0, record: '{}', technical: '{"frameRate":24}', camera: '', colours: [] })
      .execute();
    await db().updateTable('file').set({ told: null }).execute();
    const gone = join(place.root, 'c.jpg');
    renameSync(gone, `${gone}.away`);
    await enqueueReadAgain(archive.house);
    await idle(archive);
    const records = await readRecords(db(), ids);
    const of = (id: string) => records.find((one) => one.id === id)!.values;
    expect(of(a)).toMatchObject({ title: 'Comma, "quotes"', headline: '=1+1' });
    expect(of(b).title).toBe('Said by people');
    const rows = await db()
      .selectFrom('item')
      .select(['id', 'reading', 'camera', 'colours', 'technical'])
      .execute();
    const row = (id: string) => rows.find((one) => one.id === id)!;
    expect(row(a)).toMatchObject({
      reading: READING,
      camera: 'Heron 5',
      // What was probed stays, what was not read is there.
      technical: { frameRate: 24, camera: 'Heron 5' },
    });
    expect(row(a).colours.length).toBeGreaterThan(0);
    expect(row(c).reading).toBe(0);
    renameSync(`${gone}.away`, gone);
    await enqueueReadAgain(archive.house);
    await idle(archive);
    expect(
      await db().selectFrom('item').select('id').where('reading', '<', READING).execute(),
    ).toEqual([]);
    // Nothing is left to do: no work is added.
    await enqueueReadAgain(archive.house);
    expect(
      await db().selectFrom('job').select('id').where('state', '=', 'waiting').execute(),
    ).toEqual([]);
  });
});

describe('an empty folder', () => {
  const folder = async (path: string): Promise<string> => {
    mkdirSync(join(place.root, path), { recursive: true });
    return ensureFolder(db(), place.id, path);
  };
  const known = async (path: string): Promise<boolean> =>
    (await db().selectFrom('folder').select('id').where('path', '=', path).execute()).length > 0;

  it('is removed with the empty ones below it, given back, and removed again by the ledger', async () => {
    await folder('Old/Older/Oldest');
    const id = await folder('Old');
    expect(new Set(await emptyFolders(db()))).toEqual(
      new Set([id, await folder('Old/Older'), await folder('Old/Older/Oldest')]),
    );
    const { operation, removed } = await removeEmptyFolders(db(), null, id);
    expect(removed).toBe(3);
    expect([existsSync(join(place.root, 'Old')), await known('Old/Older')]).toEqual([false, false]);
    const back = await undo(db(), null, operation);
    expect([
      existsSync(join(place.root, 'Old/Older/Oldest')),
      await known('Old/Older/Oldest'),
    ]).toEqual([true, true]);
    await expect(undo(db(), null, operation)).rejects.toMatchObject({ code: 'conflict' });
    await undo(db(), null, back);
    expect([existsSync(join(place.root, 'Old')), await known('Old')]).toEqual([false, false]);
  });

  it('that is not empty, of the archive’s knowledge or on disk, stays', async () => {
    const root = await db()
      .selectFrom('folder')
      .select('id')
      .where('path', '=', '')
      .where('placeId', '=', place.id)
      .executeTakeFirstOrThrow();
    await expect(removeEmptyFolders(db(), null, root.id)).rejects.toMatchObject({
      code: 'not-allowed',
    });
    const id = await folder('Full/Deep');
    writeFileSync(join(place.root, 'Full/Deep/note.txt'), 'of nobody we know');
    await expect(removeEmptyFolders(db(), null, await folder('Full'))).rejects.toThrow(/note\.txt/);
    expect(existsSync(join(place.root, 'Full/Deep/note.txt'))).toBe(true);
    rmSync(join(place.root, 'Full/Deep/note.txt'));
    await db().updateTable('place').set({ handsOff: true }).execute();
    await expect(removeEmptyFolders(db(), null, id)).rejects.toMatchObject({ code: 'not-allowed' });
    await db().updateTable('place').set({ handsOff: false }).execute();
    await db().updateTable('file').set({ folderId: id }).where('itemId', '=', ids[0]!).execute();
    await expect(removeEmptyFolders(db(), null, await folder('Full'))).rejects.toThrow(/1 file/);
  });
});
