import { createHash } from 'node:crypto';
import {
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  statSync,
  symlinkSync,
  truncateSync,
  writeFileSync,
} from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { parseQuery } from '#core/query/grammar';
import { HOUSE } from '#core/sight/viewer';
import { holdings } from '#server/catalogue/facets';
import { findIds, findTiles, neighboursOf, wallOf } from '#server/catalogue/find';
import { itemByNumber, showItem } from '#server/catalogue/show';
import { startAccession } from '#server/intake/plan/accession';
import { previewPlan } from '#server/intake/plan/targets';
import { accessions, leftOver } from '#server/intake/report/accessions';
import { readScan, startScan } from '#server/intake/look/scan';
import { lookInto } from '#server/intake/sources/sources';
import { wishJob } from '#server/jobs/queue';
import { addPlace } from '#server/places/places';
import { pictureFile } from '#server/renditions/store';
import { KEEPER, bringIn, filesIn, idle, placeNamed, until, useArchive } from '../support/archive';
import { jpeg, writeJpeg } from '../support/pictures';

const archive = useArchive();
const digest = (path: string): string =>
  createHash('sha256').update(readFileSync(path)).digest('hex');
const everything = parseQuery('');

describe('bringing in', () => {
  it('copies, files, names, reads and pictures what a card holds', async () => {
    const card = join(archive.folder, 'card');
    await writeJpeg(join(card, 'DCIM/HRN_1.JPG'), 1, {
      'EXIF:DateTimeOriginal': '2026:09:12 19:42:07',
      'EXIF:OffsetTimeOriginal': '+01:00',
      'EXIF:Make': 'Marlow',
      'EXIF:Model': 'Heron 5',
      'EXIF:Artist': 'Bea Lund',
      'XMP-dc:Title': '007.0',
      'GPS:GPSLatitude': '52.9',
      'GPS:GPSLatitudeRef': 'N',
      'GPS:GPSLongitude': '0.85',
      'GPS:GPSLongitudeRef': 'W',
    });
    await writeJpeg(join(card, 'DCIM/HRN_2.JPG'), 2, {
      'EXIF:DateTimeOriginal': '2026:09:12 20:00:00',
      'EXIF:Model': 'Heron 5',
      'EXIF:Orientation#': '6',
    });
    await writeJpeg(join(card, 'OTHER/HRN_2.JPG'), 3);
    const before = digest(join(card, 'DCIM/HRN_1.JPG'));
    const place = await placeNamed(archive, 'Studio shelf');
    const id = await bringIn(archive, card, {
      mode: 'copy',
      place,
      filing: '{taken yyyy-MM-dd}',
      naming: 'SLT-{taken MMdd}-{counter 001 by day}',
      terms: ['Box kite under Kite'],
    });

    expect(filesIn(join(place.root, '2026-09-12'))).toEqual([
      'SLT-0912-001.jpg',
      'SLT-0912-002.jpg',
    ]);
    expect(readdirSync(join(place.root, 'undated'))).toEqual(['SLT-undated-001.jpg']);
    expect(digest(join(card, 'DCIM/HRN_1.JPG'))).toBe(before);
    const [line] = await accessions(archive.house.db, 1, id);
    expect(line).toMatchObject({ done: 3, skipped: 0, failed: 0, state: 'done' });
    const first = await showItem(
      archive.house.db,
      KEEPER,
      await itemByNumber(archive.house.db, HOUSE, `${line!.number}.0001`),
    );
    expect(first).toMatchObject({
      kind: 'photo',
      originalName: 'HRN_1.JPG',
      width: 96,
      height: 64,
      record: {
        title: '007.0',
        creator: ['Bea Lund'],
        terms: ['Box kite'],
        position: '52.9, -0.85',
        taken: { edtf: '2026-09-12T19:42:07+01:00', offset: 60 },
      },
      technical: { camera: 'Marlow Heron 5' },
      writing: 'written',
    });
    expect(first.renditions.map(({ recipe }) => recipe)).toEqual(['large', 'medium', 'small']);
    const [turned] = await findTiles(
      archive.house.db,
      HOUSE,
      parseQuery('words HRN_2; taken 2026-09-12'),
      0,
      1,
    );
    expect([turned!.width, turned!.height]).toEqual([64, 96]);
    const [, key] = turned!.picture.split('/');
    expect(existsSync(pictureFile(archive.house, key!, 'small'))).toBe(true);
  });

  it('leaves out what is held already, also after its record was written into the file', async () => {
    const card = join(archive.folder, 'card');
    const scanId = await startScan(archive.house, null, { kind: 'folder', name: card });
    await idle(archive);
    const scan = await readScan(archive.house.db, scanId);
    expect(scan.files.every((file) => file.lookedAt && file.held !== null)).toBe(true);
    const id = await bringIn(archive, card, {
      mode: 'copy',
      place: await placeNamed(archive, 'Studio shelf'),
    });
    const [line] = await accessions(archive.house.db, 1, id);
    expect(line).toMatchObject({ done: 0, skipped: 3, failed: 0 });
    expect((await leftOver(archive.house.db, id))[0]!.reason).toContain('already held as 20');
  });

  it('keeps both files of one name, and twins within one source', async () => {
    const source = join(archive.folder, 'twins');
    await writeJpeg(join(source, 'a/same.jpg'), 20);
    await writeJpeg(join(source, 'b/same.jpg'), 21);
    await writeJpeg(join(source, 'c/SAME.JPG'), 20);
    const place = await placeNamed(archive, 'Twins');
    await bringIn(archive, source, { mode: 'copy', place });
    expect(filesIn(place.root)).toEqual(['SAME-3.jpg', 'same-2.jpg', 'same.jpg']);
  });

  it('keeps in place without touching a byte', async () => {
    const root = join(archive.folder, 'Travel drive');
    await writeJpeg(join(root, 'Far/one.jpg'), 30);
    writeFileSync(join(root, 'Far/notes.txt'), 'wind from the north');
    const before = [digest(join(root, 'Far/one.jpg')), statSync(join(root, 'Far/one.jpg')).mtimeMs];
    const place = await addPlace(archive.house, 'Travel drive', root);
    const first = await bringIn(archive, root, { mode: 'in-place', place });
    expect([
      digest(join(root, 'Far/one.jpg')),
      statSync(join(root, 'Far/one.jpg')).mtimeMs,
    ]).toEqual(before);
    expect((await accessions(archive.house.db, 1, first))[0]).toMatchObject({ done: 2, failed: 0 });
    const again = await bringIn(archive, root, { mode: 'in-place', place });
    expect((await accessions(archive.house.db, 1, again))[0]).toMatchObject({
      done: 0,
      skipped: 2,
    });
  });

  it('brings unreadable, truncated and mislabelled files in as files and says why there is no picture', async () => {
    const source = join(archive.folder, 'bad');
    mkdirSync(source);
    writeFileSync(
      join(source, 'noise.jpg'),
      Buffer.from(Array.from({ length: 5000 }, (_, at) => (at * 7) & 127)),
    );
    writeFileSync(join(source, 'empty.jpg'), '');
    writeFileSync(join(source, 'cut.jpg'), await jpeg(40, 400, 300));
    truncateSync(join(source, 'cut.jpg'), 2500);
    writeFileSync(join(source, 'really-a-jpeg.png'), await jpeg(41));
    writeFileSync(join(source, 'page.html'), '<script>alert(1)</script>');
    writeFileSync(
      join(source, 'drawing.svg'),
      '<svg xmlns="http://www.w3.org/2000/svg" width="30" height="20"><script>alert(1)</script><image href="file:///etc/passwd"/></svg>',
    );
    writeFileSync(join(source, 'line\nfeed.jpg'), await jpeg(42));
    writeFileSync(
      Buffer.concat([Buffer.from(`${source}/latin-`), Buffer.from([0xe9]), Buffer.from('.jpg')]),
      await jpeg(43),
    );
    writeFileSync(join(source, `${'n'.repeat(251)}.jpg`), await jpeg(44));
    symlinkSync('/etc/passwd', join(source, 'outside.jpg'));
    const place = await placeNamed(archive, 'Bad');
    const id = await bringIn(archive, source, { mode: 'copy', place });
    expect((await leftOver(archive.house.db, id)).map(({ path }) => path)).toEqual(['outside.jpg']);
    const tiles = await findTiles(archive.house.db, HOUSE, parseQuery('in Bad; order name'), 0, 50);
    const byOriginal = new Map(
      await Promise.all(
        tiles.map(
          async (tile) =>
            [(await showItem(archive.house.db, KEEPER, tile.id)).originalName, tile] as const,
        ),
      ),
    );
    expect(byOriginal.size).toBe(9);
    expect(byOriginal.get('cut.jpg')!.noPicture).toContain('too early');
    expect(byOriginal.get('empty.jpg')!.noPicture).toContain('no kind we know');
    expect(byOriginal.get('noise.jpg')!.format).toBe('other');
    expect(byOriginal.get('page.html')!.noPicture).toContain('no text');
    for (const name of ['really-a-jpeg.png', 'drawing.svg', 'line\nfeed.jpg'])
      expect(byOriginal.get(name)!.pictureState).toBe('ready');
    expect(tiles.filter((tile) => tile.pictureState === 'waiting')).toEqual([]);
    expect(readdirSync(place.root).some((name) => name.includes('\n'))).toBe(false);
  });

  it('reads names that are no UTF-8 in place, byte for byte', async () => {
    const root = join(archive.folder, 'Odd names');
    mkdirSync(root);
    const bytes = Buffer.concat([
      Buffer.from(`${root}/`),
      Buffer.from([0x66, 0xff, 0x2e, 0x6a, 0x70, 0x67]),
    ]);
    writeFileSync(bytes, await jpeg(50));
    const place = await addPlace(archive.house, 'Odd names', root);
    await bringIn(archive, root, { mode: 'in-place', place });
    const [tile] = await findTiles(archive.house.db, HOUSE, parseQuery('in "Odd names"'), 0, 5);
    expect(tile!.pictureState).toBe('ready');
  });

  it('refuses bad plans and overlapping folders before anything is done', async () => {
    const source = join(archive.folder, 'card');
    const place = await placeNamed(archive, 'Studio shelf');
    const wish = {
      title: 'x',
      source: { kind: 'folder' as const, name: source },
      root: source,
      mode: 'copy' as const,
      place,
      plan: { filing: '', naming: '{moon}', terms: [] },
      files: [{ path: 'a', size: 1 }],
      actorId: null,
    };
    await expect(startAccession(archive.house, wish)).rejects.toMatchObject({
      code: 'pattern-unclear',
    });
    await expect(
      startAccession(archive.house, {
        ...wish,
        plan: { ...wish.plan, naming: 'a' },
        root: place.root,
      }),
    ).rejects.toMatchObject({ code: 'value-refused' });
    await expect(
      addPlace(archive.house, 'Within', join(place.root, '2026-09-12')),
    ).rejects.toMatchObject({ code: 'conflict' });
  });

  it('shows in the preview exactly the names that the intake gives, refusing impossible ones', async () => {
    const source = join(archive.folder, 'preview');
    for (const seed of [60, 61, 62])
      await writeJpeg(join(source, `p${seed}.jpg`), seed, {
        'EXIF:DateTimeOriginal': `2026:0${seed - 57}:01 10:00:00`,
      });
    const scanId = await startScan(archive.house, null, { kind: 'folder', name: source });
    await idle(archive);
    const place = await placeNamed(archive, 'Preview');
    const plan = { filing: '{taken yyyy}/{taken MM}', naming: 'N-{counter 01}', terms: [] };
    const scan = await readScan(archive.house.db, scanId);
    const preview = await previewPlan(
      archive.house.db,
      scanId,
      scan.files.map(({ position }) => position),
      place.id,
      plan,
    );
    await bringIn(archive, source, {
      mode: 'copy',
      place,
      filing: plan.filing,
      naming: plan.naming,
    });
    for (const line of preview.lines)
      expect(existsSync(join(place.root, line.folder, line.name))).toBe(true);
    const bad = await previewPlan(archive.house.db, scanId, [0], place.id, {
      ...plan,
      naming: 'con',
    });
    expect(bad.problems).toBe(1);
  });

  it('looks only into folders that may be brought from', async () => {
    await expect(lookInto(archive.house, '/etc')).rejects.toMatchObject({ code: 'outside-place' });
    await expect(lookInto(archive.house, `${archive.folder}/../..`)).rejects.toMatchObject({
      code: 'outside-place',
    });
    symlinkSync('/etc', join(archive.folder, 'way-out'));
    await expect(lookInto(archive.house, join(archive.folder, 'way-out'))).rejects.toMatchObject({
      code: 'outside-place',
    });
    expect((await lookInto(archive.house, join(archive.folder, 'card'))).folders).toHaveLength(2);
  });

  it('pauses, goes on, and cancels without leaving anything partial', async () => {
    const source = join(archive.folder, 'many');
    for (let seed = 100; seed < 160; seed += 1) await writeJpeg(join(source, `m${seed}.jpg`), seed);
    const place = await placeNamed(archive, 'Many');
    const { files } = {
      files: readdirSync(source)
        .sort()
        .map((path) => ({ path, size: statSync(join(source, path)).size })),
    };
    const start = () =>
      startAccession(archive.house, {
        title: 'Many',
        source: { kind: 'folder', name: source },
        root: source,
        mode: 'copy',
        place,
        plan: { filing: '', naming: '{name}', terms: [] },
        files,
        actorId: null,
      });
    const { id, jobId } = await start();
    await until(
      async () => (await accessions(archive.house.db, 1, id))[0]!.done > 2,
      'a few files',
    );
    await wishJob(archive.house.db, KEEPER, jobId, 'pause');
    await until(
      async () => (await accessions(archive.house.db, 1, id))[0]!.state === 'paused',
      'the pause',
    );
    await idle(archive);
    const paused = (await accessions(archive.house.db, 1, id))[0]!.done;
    expect(paused).toBeLessThan(60);
    await wishJob(archive.house.db, KEEPER, jobId, 'run');
    await until(
      async () => (await accessions(archive.house.db, 1, id))[0]!.done > paused,
      'it to go on',
    );
    await wishJob(archive.house.db, KEEPER, jobId, 'cancel');
    await until(
      async () =>
        ['cancelled', 'done'].includes((await accessions(archive.house.db, 1, id))[0]!.state),
      'the end',
    );
    await idle(archive);
    const { done } = (await accessions(archive.house.db, 1, id))[0]!;
    const there = filesIn(place.root);
    expect(there.filter((name) => name.startsWith('.mindful-'))).toEqual([]);
    expect(there).toHaveLength(done);
  });
});

describe('finding', () => {
  it('finds narrower terms by the broader, words by their beginnings, folders by one level or all', async () => {
    const { db } = archive.house;
    expect((await findIds(db, HOUSE, parseQuery('term Kite'))).length).toBe(3);
    expect((await findIds(db, HOUSE, parseQuery('words "box HRN"'))).length).toBe(3);
    expect((await findIds(db, HOUSE, parseQuery('in "Studio shelf"'))).length).toBe(3);
    expect((await findIds(db, HOUSE, parseQuery('in "Studio shelf" only'))).length).toBe(0);
    expect((await findIds(db, HOUSE, parseQuery('taken unknown; in "Studio shelf"'))).length).toBe(
      1,
    );
  });

  it('orders, pages and walks a result the same way', async () => {
    const { db } = archive.house;
    for (const text of ['', 'order name', 'order size down', 'order title', 'order brought down']) {
      const query = parseQuery(text);
      const ids = await findIds(db, HOUSE, query);
      const paged = [
        ...(await findTiles(db, HOUSE, query, 0, 20)),
        ...(await findTiles(db, HOUSE, query, 20, 500)),
      ].map(({ id }) => id);
      expect(paged).toEqual(ids);
      expect(await neighboursOf(db, HOUSE, query, ids[5]!)).toEqual({
        index: 5,
        total: ids.length,
        previous: ids[4],
        next: ids[6],
      });
    }
  });

  it('adds up the tree', async () => {
    const nodes = await holdings(archive.house.db, HOUSE, everything);
    const places = nodes.filter(({ path }) => path === '');
    const { total } = await wallOf(archive.house.db, HOUSE, everything);
    expect(places.reduce((sum, { count }) => sum + count, 0)).toBe(total);
    for (const node of nodes) {
      const below = nodes.filter(
        (other) =>
          other.place === node.place &&
          (node.path === '' || other.path === node.path || other.path.startsWith(`${node.path}/`)),
      );
      expect(node.count).toBe(below.reduce((sum, { here }) => sum + here, 0));
    }
  });
});
