import {
  appendFileSync,
  cpSync,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statSync,
  unlinkSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { join } from 'node:path';
import { beforeAll, describe, expect, it } from 'vitest';
import { parseQuery } from '#core/query/grammar';
import { HOUSE } from '#core/sight/viewer';
import { findIds, findTiles } from '#server/catalogue/find';
import { showItem } from '#server/catalogue/show';
import { pictureFile } from '#server/renditions/store';
import { arrived, dropZoneRule, setDropZoneRule } from '#server/watching/dropzone';
import { planSchema } from '#core/intake/plan';
import { AS_WISHED } from '../support/naming';
import { startRename } from '#server/naming/rename';
import { askToCompare } from '#server/watching/compare';
import { placeLines, pointPlace, setPlace } from '#server/watching/manage';
import { addPlace, type Place } from '#server/places/places';
import { changeRecords } from '#server/records/records';
import { KEEPER, bringIn, filesIn, idle, placeNamed, until, useArchive } from '../support/archive';
import { exiv2, setTags, writeJpeg } from '../support/pictures';
import { asSeen } from '#server/sight/seen';

const archive = useArchive();
const db = () => archive.house.db;
let place: Place;
let root = '';

beforeAll(async () => {
  root = join(archive.folder, 'shared');
  for (const seed of [1, 2, 3, 4, 5])
    await writeJpeg(join(root, `day ${seed % 2}`, `p${seed}.jpg`), seed, {
      'EXIF:DateTimeOriginal': `2026:05:0${seed} 10:00:00`,
    });
  place = await addPlace(archive.house, 'Shared', root);
  await bringIn(archive, root, { mode: 'in-place', place });
  await until(async () => (await line()).lookedAt !== null, 'the first comparison');
  await idle(archive);
});

const line = async () => (await placeLines(archive.house)).find(({ id }) => id === place.id)!;
const fileOf = async (name: string) =>
  db()
    .selectFrom('file as f')
    .innerJoin('folder as d', 'd.id', 'f.folderId')
    .innerJoin('item as i', 'i.id', 'f.itemId')
    .select(['f.id', 'f.itemId', 'f.state', 'f.name', 'd.path as folder', 'i.number', 'f.placeId'])
    .select(['f.contentHash', 'f.pictureKey', 'f.missingSince'])
    .where('i.originalName', '=', name)
    .where('f.role', '=', 'original')
    .executeTakeFirst();
const becomes = async (
  name: string,
  holds: (file: NonNullable<Awaited<ReturnType<typeof fileOf>>>) => boolean,
) =>
  until(
    async () => {
      const file = await fileOf(name);
      return file !== undefined && holds(file);
    },
    `${name} to be followed`,
    40,
  );

describe('what other programs do in a place', () => {
  it('renames and moves: the record follows the file', async () => {
    const before = await fileOf('p1.jpg');
    await changeRecords(db(), null, asSeen([before!.itemId]), { title: 'Followed' });
    await idle(archive);
    renameSync(join(root, 'day 1/p1.jpg'), join(root, 'day 1/renamed elsewhere.jpg'));
    await becomes('p1.jpg', ({ name }) => name === 'renamed elsewhere.jpg');
    mkdirSync(join(root, 'another/deeper'), { recursive: true });
    renameSync(join(root, 'day 1/renamed elsewhere.jpg'), join(root, 'another/deeper/p1.jpg'));
    await becomes('p1.jpg', ({ folder }) => folder === 'another/deeper');
    const after = await fileOf('p1.jpg');
    expect([after!.itemId, after!.number]).toEqual([before!.itemId, before!.number]);
    expect(await findIds(db(), HOUSE, parseQuery('in Shared/another'))).toEqual([before!.itemId]);
    expect(await findIds(db(), HOUSE, parseQuery('words renamed'))).toEqual([]);
  });

  it('two files trade names: each record goes with its own picture', async () => {
    const [two, four] = [await fileOf('p2.jpg'), await fileOf('p4.jpg')];
    const at = (name: string): string => join(root, 'day 0', name);
    renameSync(at('p2.jpg'), at('x.jpg'));
    renameSync(at('p4.jpg'), at('p2.jpg'));
    renameSync(at('x.jpg'), at('p4.jpg'));
    await becomes('p2.jpg', ({ name }) => name === 'p4.jpg');
    const [twoNow, fourNow] = [await fileOf('p2.jpg'), await fileOf('p4.jpg')];
    expect([twoNow!.itemId, fourNow!.itemId, fourNow!.name]).toEqual([
      two!.itemId,
      four!.itemId,
      'p2.jpg',
    ]);
    expect([twoNow!.contentHash, fourNow!.contentHash]).toEqual([
      two!.contentHash,
      four!.contentHash,
    ]);
  });

  it('deletes: the record stays as missing with its pictures, and is found when the file comes back', async () => {
    const before = await fileOf('p3.jpg');
    const kept = join(archive.folder, 'kept.jpg');
    cpSync(join(root, 'day 1/p3.jpg'), kept, { preserveTimestamps: true });
    unlinkSync(join(root, 'day 1/p3.jpg'));
    await becomes('p3.jpg', ({ state }) => state === 'missing');
    expect((await line()).missing).toBe(1);
    expect(existsSync(pictureFile(archive.house, before!.pictureKey, 'small'))).toBe(true);
    const [tile] = await findTiles(db(), HOUSE, parseQuery('words p3'), 0, 1);
    expect(tile).toMatchObject({ id: before!.itemId, fileState: 'missing' });
    // It comes back under another name, as a copy: only its content tells.
    cpSync(kept, join(root, 'brought back.jpg'));
    await becomes('p3.jpg', ({ state }) => state === 'present');
    expect(await fileOf('p3.jpg')).toMatchObject({
      itemId: before!.itemId,
      name: 'brought back.jpg',
      missingSince: null,
    });
  });

  it('moves a file to another place: its record goes along', async () => {
    const other = await placeNamed(archive, 'Other disk');
    const before = await fileOf('p3.jpg');
    cpSync(join(root, 'brought back.jpg'), join(other.root, 'moved.jpg'));
    unlinkSync(join(root, 'brought back.jpg'));
    await becomes('p3.jpg', ({ state, placeId }) => state === 'present' && placeId === other.id);
    expect((await fileOf('p3.jpg'))!.itemId).toBe(before!.itemId);
  });

  it('adds: new files become items, once they have stopped growing, clutter does not', async () => {
    await writeJpeg(join(root, 'new/added.jpg'), 50);
    writeFileSync(join(root, 'new/.DS_Store'), 'x');
    writeFileSync(join(root, 'new/notes.txt'), 'begin');
    for (let part = 0; part < 6; part += 1) {
      await new Promise((resolve) => setTimeout(resolve, 300));
      appendFileSync(join(root, 'new/notes.txt'), ` part ${part}`);
    }
    await becomes('added.jpg', ({ folder }) => folder === 'new');
    await becomes('notes.txt', ({ folder }) => folder === 'new');
    await idle(archive);
    const notes = await showItem(db(), KEEPER, (await fileOf('notes.txt'))!.itemId);
    expect(notes.files[0]!.size).toBe(statSync(join(root, 'new/notes.txt')).size);
    expect(await findIds(db(), HOUSE, parseQuery('in Shared/new'))).toHaveLength(2);
  });

  it('saves a file anew: what it says is read, also of what was told here before', async () => {
    const before = await fileOf('p5.jpg');
    await changeRecords(db(), null, asSeen([before!.itemId]), { rating: 4 });
    await idle(archive);
    const path = join(root, 'day 1/p5.jpg');
    await setTags(path, { 'XMP-dc:Title': 'Told by another program', 'XMP-xmp:Rating': '1' });
    await until(
      async () =>
        (await showItem(db(), KEEPER, before!.itemId)).record.title === 'Told by another program',
      'the title to be read',
      40,
    );
    const after = await showItem(db(), KEEPER, before!.itemId);
    expect(after.record.rating).toBe(1);
    expect(after.writing).toBe('written');
    expect(after.files[0]!.contentHash).not.toBe(before!.contentHash);
    await idle(archive);
    expect(exiv2(path)['Xmp.dc.title']).toContain('Told by another program');
  });

  it('touches a file: its content is the same, nothing is told', async () => {
    const before = await fileOf('p5.jpg');
    const path = join(root, 'day 1/p5.jpg');
    utimesSync(path, 1_700_000_000, 1_700_000_000);
    await until(
      async () =>
        (
          await db()
            .selectFrom('file')
            .select('modifiedNs')
            .where('id', '=', before!.id)
            .executeTakeFirstOrThrow()
        ).modifiedNs === '1700000000000000000',
      'the new time',
      40,
    );
    expect((await fileOf('p5.jpg'))!.contentHash).toBe(before!.contentHash);
  });

  it('is told apart from what we do ourselves', async () => {
    const items = await findIds(db(), HOUSE, parseQuery('in Shared; kind photo; order name'));
    await startRename(db(), null, {
      itemIds: items,
      pattern: 'OWN-{counter 01}',
      ...AS_WISHED,
    });
    await idle(archive);
    await changeRecords(db(), null, items, { caption: 'Our own work' });
    await idle(archive);
    await askToCompare(archive.house, place);
    await idle(archive);
    const states = await db()
      .selectFrom('file')
      .select(['state', 'name'])
      .where('placeId', '=', place.id)
      .execute();
    expect(states.filter(({ state }) => state !== 'present')).toEqual([]);
    expect(await findIds(db(), HOUSE, parseQuery('in Shared; kind photo'))).toHaveLength(
      items.length,
    );
  });
});

describe('what was left out on purpose', () => {
  it('stays out: only what comes later is brought in by itself', async () => {
    const folder = join(archive.folder, 'chosen from');
    for (const seed of [201, 202, 203]) await writeJpeg(join(folder, `${seed}.jpg`), seed);
    const chosen = await addPlace(archive.house, 'Chosen from', folder);
    await bringIn(archive, folder, {
      mode: 'in-place',
      place: chosen,
      files: [{ path: '201.jpg', size: 1 }],
    });
    await askToCompare(archive.house, chosen);
    await idle(archive);
    expect(await findIds(db(), HOUSE, parseQuery('in "Chosen from"'))).toHaveLength(1);
    await writeJpeg(join(folder, 'later.jpg'), 204);
    await becomes('later.jpg', ({ state }) => state === 'present');
    await idle(archive);
    expect(await findIds(db(), HOUSE, parseQuery('in "Chosen from"'))).toHaveLength(2);
    const accessions = await db()
      .selectFrom('accession')
      .select('id')
      .where('placeId', '=', chosen.id)
      .execute();
    expect(accessions).toHaveLength(2);
  });
});

describe('a place that goes away', () => {
  it('turns away with all its records, and returns by itself', async () => {
    const before = await findIds(db(), HOUSE, parseQuery('in Shared'));
    renameSync(root, `${root}-away`);
    await until(async () => !(await line()).here, 'the place to be away', 40);
    await idle(archive);
    expect(await line()).toMatchObject({ missing: 0, items: before.length });
    // The folder of an unmounted disk is there, and empty.
    mkdirSync(root);
    await askToCompare(archive.house, place);
    await idle(archive);
    expect(await line()).toMatchObject({ here: false, missing: 0 });
    rmSync(root, { recursive: true });
    renameSync(`${root}-away`, root);
    await until(async () => (await line()).here, 'the place to be back', 40);
    await idle(archive);
    expect(await line()).toMatchObject({ missing: 0, items: before.length });
  });

  it('is pointed to its new path and matched by content, but not to a stranger’s', async () => {
    const before = await findIds(db(), HOUSE, parseQuery('in Shared'));
    const next = join(archive.folder, 'new disk');
    // Copied to another disk: other inodes, other times, some names changed.
    cpSync(root, next, { recursive: true });
    const [first] = readdirSync(join(next, 'day 0'));
    renameSync(join(next, 'day 0', first!), join(next, 'day 0/another name.jpg'));
    renameSync(root, `${root}-gone`);
    await until(async () => !(await line()).here, 'the place to be away', 40);
    const stranger = join(archive.folder, 'stranger');
    await writeJpeg(join(stranger, 'x.jpg'), 77);
    await expect(pointPlace(archive.house, place.id, stranger)).rejects.toMatchObject({
      code: 'conflict',
      message: expect.stringContaining('None of the files') as string,
    });
    await expect(
      pointPlace(archive.house, place.id, join(archive.folder, 'no')),
    ).rejects.toMatchObject({ code: 'not-found' });
    await pointPlace(archive.house, place.id, next);
    await until(async () => {
      await idle(archive);
      return (await findIds(db(), HOUSE, parseQuery('words "another name"'))).length === 1;
    }, 'the renamed file to be matched');
    expect(await line()).toMatchObject({ here: true, missing: 0, root: next });
    expect((await findIds(db(), HOUSE, parseQuery('in Shared'))).sort()).toEqual(before.sort());
    root = next;
  });
});

describe('hands off', () => {
  it('refuses every write of ours, and still follows what others do', async () => {
    await setPlace(archive.house, place.id, { handsOff: true });
    const [id] = await findIds(db(), HOUSE, parseQuery('in Shared; kind photo; order name'));
    const path = (await showItem(db(), KEEPER, id!)).files[0]!.path;
    const bytes = readFileSync(path);
    await expect(
      startRename(db(), null, { itemIds: asSeen([id!]), pattern: 'x', ...AS_WISHED }),
    ).rejects.toMatchObject({ code: 'not-allowed' });
    await changeRecords(db(), null, asSeen([id!]), { title: 'Only in the archive' });
    await idle(archive);
    expect(readFileSync(path).equals(bytes)).toBe(true);
    const source = join(archive.folder, 'to hands off');
    await writeJpeg(join(source, 'a.jpg'), 88);
    await expect(
      bringIn(archive, source, { mode: 'copy', place: { ...place, root, handsOff: true } }),
    ).rejects.toMatchObject({ code: 'not-allowed' });
    await expect(
      bringIn(archive, source, {
        mode: 'copy',
        place: await placeNamed(archive, 'Elsewhere'),
        plan: { secondCopyId: place.id },
      }),
    ).rejects.toMatchObject({ code: 'not-allowed' });
    renameSync(path, join(root, 'by others.jpg'));
    await until(
      async () => (await showItem(db(), KEEPER, id!)).files[0]!.name === 'by others.jpg',
      'the rename to be followed',
      40,
    );
    await setPlace(archive.house, place.id, { handsOff: false });
  });
});

describe('the drop zone', () => {
  it('waits until a file has stopped growing, then brings it in by its plan', async () => {
    const shelf = await placeNamed(archive, 'Dropped');
    const zone = archive.house.folders.dropZone;
    expect(await arrived(archive.house)).toEqual({ whole: [], growing: 0 });
    expect(await dropZoneRule(archive.house)).toBeNull();
    await setDropZoneRule(archive.house, {
      mode: 'move',
      placeId: shelf.id,
      plan: planSchema.parse({ filing: 'from the zone', naming: '{name}' }),
    });
    writeFileSync(join(zone, 'slow.txt'), 'begin');
    await writeJpeg(join(zone, 'whole.jpg'), 90);
    // Old times do not make a file whole: a copy program sets them before it has written everything.
    const old = new Date('2020-01-01');
    for (let part = 0; part < 10; part += 1) {
      appendFileSync(join(zone, 'slow.txt'), ` part ${part}`);
      utimesSync(join(zone, 'slow.txt'), old, old);
      expect(existsSync(join(shelf.root, 'from the zone/slow.txt'))).toBe(false);
      await new Promise((resolve) => setTimeout(resolve, 600));
    }
    await until(async () => filesIn(zone).length === 0, 'the drop zone to be empty', 60);
    await idle(archive);
    expect(filesIn(join(shelf.root, 'from the zone'))).toEqual(['slow.txt', 'whole.jpg']);
    expect(readFileSync(join(shelf.root, 'from the zone/slow.txt'), 'utf8')).toContain('part 9');
    await setDropZoneRule(archive.house, null);
    expect(await dropZoneRule(archive.house)).toBeNull();
  });
});
