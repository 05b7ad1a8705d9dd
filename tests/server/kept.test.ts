import { execFileSync } from 'node:child_process';
import { copyFileSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import fc from 'fast-check';
import { exiftoolPath } from 'exiftool-vendored';
import sharp from 'sharp';
import { afterAll, describe, expect, it } from 'vitest';
import { IPTC_OLDER } from '#core/fields/namespaces';
import { embeds } from '#core/kinds/kinds';
import { EMPTY_RECORD, FIELD_KEYS, type RecordValues } from '#core/records/fields';
import { followersIn } from '#core/records/mapping';
import { reconciled, toldOf } from '#core/records/reconcile';
import { takenFromText } from '#core/records/taken';
import { storedSize, tagsFromRecord, targetIn } from '#core/records/writing';
import { rewriteFile } from '#server/files/door';
import { factsOf } from '#server/files/disk';
import { filesOf } from '#server/files/located';
import { endExiftool, readTags, writeTagsTo } from '#server/metadata/exiftool';
import { readFacts } from '#server/metadata/facts';
import { changeRecords, readRecords } from '#server/records/records';
import { startWorker } from '#server/work/worker';
import { bringIn, idle, placeNamed, until, useArchive } from '../support/archive';
import { exiv2, setTags, writeJpeg } from '../support/pictures';
import { asSeen } from '#server/sight/seen';

/** What a person wrote stays, whatever other programs do with the file. */
const archive = useArchive();
const db = () => archive.house.db;
const SAMPLES = process.env['MINDFUL_SAMPLES'] ?? '';
afterAll(endExiftool);

interface Held {
  path: string;
  id: string;
}
/** Bring files in. @returns where each lies, and its item */
async function held(name: string, make: (folder: string) => unknown): Promise<Map<string, Held>> {
  const source = join(archive.folder, `from ${name}`);
  mkdirSync(source, { recursive: true });
  await make(source);
  const place = await placeNamed(archive, name);
  await bringIn(archive, source, { mode: 'copy', place });
  const rows = await db()
    .selectFrom('file')
    .select(['itemId', 'name'])
    .where('placeId', '=', place.id)
    .where('role', '=', 'original')
    .execute();
  return new Map(
    rows.map((row) => [row.name, { id: row.itemId, path: join(place.root, row.name) }]),
  );
}
const valuesOf = async ({ id }: Held): Promise<RecordValues> =>
  (await readRecords(db(), [id]))[0]!.values;
const fileOf = async ({ id }: Held) => (await filesOf(db(), [id]))[0]!;
const sidecarOf = async ({ id }: Held) =>
  (await filesOf(db(), [id])).find(({ role }) => role === 'sidecar');
const disputesOf = async ({ id }: Held) =>
  (await db().selectFrom('item').select('disputes').where('id', '=', id).executeTakeFirstOrThrow())
    .disputes;
/** Another program saves a file or sidecar; wait until that was read. */
async function elsewhere(one: Held, path: string, tags: Record<string, string>): Promise<void> {
  const hashes = async () => (await filesOf(db(), [one.id])).map(({ contentHash }) => contentHash);
  const before = await hashes();
  await setTags(path, tags);
  await until(async () => `${await hashes()}` !== `${before}`, 'what was saved to be read');
  await idle(archive);
}

describe('homes that are read where nothing better is told', () => {
  it('bring nothing back that was cleared or said more vaguely', async () => {
    const files = await held('Homes', async (folder) => {
      const dates = {
        'ExifIFD:DateTimeOriginal': '2003:05:04 10:11:12',
        'ExifIFD:CreateDate': '2003:05:04 10:11:12',
        'XMP-exif:DateTimeOriginal': '2003:05:04 10:11:12',
        'XMP-xmp:CreateDate': '2003:05:04 10:11:12',
        'IFD0:Rating': '4',
        'XMP-xmp:Rating': '4',
      };
      await writeJpeg(join(folder, 'vague.jpg'), 1, dates);
      await writeJpeg(join(folder, 'cleared.jpg'), 2, dates);
      await writeJpeg(join(folder, 'full.jpg'), 3, dates);
      await writeJpeg(join(folder, 'scanned.jpg'), 4, {
        ...dates,
        'ExifIFD:CreateDate': '2019:01:02 03:04:05',
      });
      const png = join(folder, 'iim.png');
      await sharp({ create: { width: 40, height: 30, channels: 3, background: '#468' } })
        .png()
        .toFile(png);
      execFileSync(await exiftoolPath(), ['-q', '-overwrite_original', '-IPTC:Credit=Old', png]);
    });
    const wishes = {
      'vague.jpg': { taken: '197X', rating: 0 },
      'cleared.jpg': { taken: '', rating: 0 },
      'full.jpg': { taken: '1999-08-07 06:05:04', rating: 2 },
      'scanned.jpg': { taken: '' },
      'iim.png': { creditLine: '' },
    };
    for (const [name, wish] of Object.entries(wishes))
      await changeRecords(db(), null, asSeen([files.get(name)!.id]), wish);
    await idle(archive);
    const full = exiv2(files.get('full.jpg')!.path);
    expect(full['Exif.Photo.DateTimeDigitized']).toBe('1999:08:07 06:05:04');
    expect(full['Xmp.exif.DateTimeOriginal']).toBeUndefined();
    expect(full['Exif.Image.Rating']).toBeUndefined();
    // When it was scanned is another matter than when it was taken.
    expect(exiv2(files.get('scanned.jpg')!.path)['Exif.Photo.DateTimeDigitized']).toBe(
      '2019:01:02 03:04:05',
    );
    const before = new Map<string, RecordValues>();
    for (const [name, one] of files) before.set(name, await valuesOf(one));
    for (const [, one] of files) await elsewhere(one, one.path, { 'XMP-xmp:Nickname': 'Another' });
    for (const [name, one] of files) {
      expect([name, await valuesOf(one)]).toEqual([name, before.get(name)]);
      expect([name, await disputesOf(one)]).toEqual([name, {}]);
    }
  });
});

/** Records as people make them: any field filled, emptied, or said vaguely. */
const DATES = ['', '197X', '1985', '2011-02', '2011-02-03', '1999-12-31 23:59:59+01:00'];
const records = fc.record({
  title: fc.constantFrom('', 'A kite', 'Käthe’s „Drachen“'),
  caption: fc.constantFrom('', 'Line one\nLine two'),
  creator: fc.constantFrom<string[][]>([], ['Bea Lund'], ['A', 'B; C']),
  rating: fc.constantFrom(-1, 0, 3),
  terms: fc.constantFrom<string[][]>([], ['Kite', 'Dusk']),
  taken: fc.constantFrom(...DATES).map(takenFromText),
  creditLine: fc.constantFrom('', 'Ours'),
  copyrightNotice: fc.constantFrom('', '© Saltreach'),
  position: fc.constantFrom('', '54.3207, 10.1349'),
  country: fc.constantFrom('', 'Norway'),
});
const MOST_FILES = 40;

describe.runIf(SAMPLES !== '')('any record in any file of others', () => {
  it('is what it was after another program changed something else', async () => {
    const folder = join(archive.folder, 'others');
    mkdirSync(folder);
    const all = readdirSync(join(SAMPLES, 'camera')).filter((name) => !name.endsWith('.json'));
    // Every third and all that are no plain JPEG: one run takes them all often enough.
    const names = all.filter((name, at) => at % 3 === 0 || !/\.(jpe?g|tif)$/.test(name));
    const made = fc.sample(records, { numRuns: names.length, seed: 2026 });
    let tried = 0;
    for (const [at, name] of names.entries()) {
      const from = join(SAMPLES, 'camera', name);
      const facts = await readFacts(from, null);
      if (!embeds(facts.mediaType) || tried >= MOST_FILES) continue;
      const record = { ...EMPTY_RECORD, ...made[at] } as RecordValues;
      const path = join(folder, name);
      const written = await writeTagsTo(
        from,
        path,
        tagsFromRecord(record, FIELD_KEYS, {
          ...targetIn(facts.mediaType, facts.technical.iim === true),
          format: facts.format,
          size: storedSize(facts.width, facts.height, facts.orientation),
          followers: facts.record.taken
            ? followersIn(await readTags(from, false), facts.record.taken)
            : [],
        }),
      ).then(
        () => true,
        () => false,
      );
      if (!written) continue;
      tried += 1;
      const told = toldOf((await readFacts(path, null)).record);
      await setTags(path, { 'XMP-xmp:Nickname': 'Another' });
      const { taken, disputes } = reconciled(
        record,
        (await readFacts(path, null)).record,
        told,
        new Set(),
      );
      expect([name, taken, disputes]).toEqual([name, [], {}]);
      if (record.taken && record.taken.from === record.taken.to) {
        const tags = await readTags(path, false);
        expect([name, tags['ExifIFD:DateTimeOriginal'] ?? '1999:12:31 23:59:59']).toEqual([
          name,
          '1999:12:31 23:59:59',
        ]);
      }
    }
    expect(tried).toBeGreaterThan(25);
  }, 240_000);
});

describe('a sidecar', () => {
  it('that another program saves while ours is written is not lost', async () => {
    const files = await held('Beside', (folder) => {
      for (const at of [1, 2, 3])
        writeFileSync(
          join(folder, `pattern ${at}.svg`),
          `<svg xmlns="http://www.w3.org/2000/svg"><path d="M0 0h${at}"/></svg>`,
        );
    });
    const one = [...files.values()][0]!;
    await changeRecords(db(), null, asSeen([one.id]), { title: 'Ours' });
    await idle(archive);
    const sidecar = (await sidecarOf(one))!;
    const seen = (await factsOf(sidecar.path))!;
    const save = () => setTags(sidecar.path, { 'XMP-dc:Source': 'Theirs' });
    const lost = rewriteFile(archive.house, sidecar, {
      seen,
      version: 99,
      hasPicture: false,
      produce: async (target) => {
        await writeTagsTo(sidecar.path, target, { 'XMP-dc:Title': 'Later' });
        await save();
        return null;
      },
    });
    await expect(lost).rejects.toMatchObject({ code: 'file-changed' });
    expect(exiv2(sidecar.path)['Xmp.dc.source']).toBe('Theirs');
    // Nothing of ours is left beside it.
    expect(
      readdirSync(join(sidecar.path, '..')).filter((name) => name.includes('mindful-')),
    ).toEqual([]);
  });

  it('that is laid anew tells nothing that was told before: no dispute is made up', async () => {
    const files = await held('Anew', (folder) =>
      writeJpeg(join(folder, 'one.jpg'), 9, {
        'XMP-dc:Title': 'From the camera',
        'ExifIFD:DateTimeOriginal': '2003:05:04 10:11:12',
      }),
    );
    const one = files.get('one.jpg')!;
    await db().updateTable('place').set({ beside: true }).where('name', '=', 'Anew').execute();
    await changeRecords(db(), null, asSeen([one.id]), {
      title: '',
      taken: '197X',
      creditLine: 'Ours',
    });
    await idle(archive);
    const sidecar = (await sidecarOf(one))!;
    await archive.worker.stop();
    const bytes = readFileSync(sidecar.path);
    // As editors do that save under another name first.
    execFileSync('rm', [sidecar.path]);
    writeFileSync(sidecar.path, bytes);
    await setTags(sidecar.path, { [`${IPTC_OLDER}:Headline`]: 'Theirs' });
    archive.worker = await startWorker(archive.house);
    await until(async () => (await valuesOf(one)).headline === 'Theirs', 'the headline to be read');
    await idle(archive);
    expect(await disputesOf(one)).toEqual({});
    expect(await valuesOf(one)).toMatchObject({ title: '', creditLine: 'Ours' });
    expect((await valuesOf(one)).taken?.edtf).toBe('197X');
  });
});

describe('a file into which nothing can be written', () => {
  it('is described beside, once; the sidecar is used from then on, and nobody is told a path', async () => {
    const files = await held('Odd', async (folder) => {
      const plain = await sharp({
        create: { width: 40, height: 30, channels: 3, background: '#468' },
      })
        .tiff({ bigtiff: true })
        .toBuffer();
      writeFileSync(join(folder, 'big.tif'), plain);
      if (SAMPLES) copyFileSync(join(SAMPLES, 'camera', 'c055.jpg'), join(folder, 'odd.jpg'));
    });
    for (const [name, one] of files) {
      const before = readFileSync(one.path);
      await changeRecords(db(), null, asSeen([one.id]), { caption: 'First' });
      await idle(archive);
      expect([name, readFileSync(one.path).equals(before)]).toEqual([name, true]);
      expect([name, exiv2(`${one.path}.xmp`)['Xmp.dc.description']]).toEqual([
        name,
        'lang="x-default" First',
      ]);
      const file = await fileOf(one);
      if (embeds(file.mediaType) && file.essenceHash)
        expect([name, file.refusedHash]).toEqual([name, file.contentHash]);
      const tried = await db()
        .selectFrom('operationStep')
        .select('reason')
        .where('fileId', '=', file.id)
        .execute();
      for (const { reason } of tried) expect(reason ?? '').not.toMatch(/\/tmp|mindful-/);
      await changeRecords(db(), null, asSeen([one.id]), { caption: 'Second' });
      await idle(archive);
      const again = await db()
        .selectFrom('operationStep')
        .select('reason')
        .where('fileId', '=', file.id)
        .execute();
      expect([name, again.length]).toEqual([name, tried.length]);
      expect(exiv2(`${one.path}.xmp`)['Xmp.dc.description']).toBe('lang="x-default" Second');
      // What another program writes there is read, though the file itself says nothing.
      await elsewhere(one, `${one.path}.xmp`, { 'XMP-dc:Creator': 'Theirs' });
      expect(await valuesOf(one)).toMatchObject({ caption: 'Second', creator: ['Theirs'] });
    }
  });

  it('as a locked document is not even tried', async () => {
    const files = await held('Locked', (folder) => {
      execFileSync('gs', [
        ...['-q', '-sDEVICE=pdfwrite', '-dEncryptionR=3', '-dKeyLength=128', '-sOwnerPassword=a'],
        ...['-dPermissions=-64', '-o', join(folder, 'locked.pdf'), '-c', 'showpage'],
      ]);
    });
    const one = files.get('locked.pdf')!;
    await changeRecords(db(), null, asSeen([one.id]), { title: 'Beside' });
    await idle(archive);
    expect(exiv2(`${one.path}.xmp`)['Xmp.dc.title']).toBe('lang="x-default" Beside');
    const steps = await db()
      .selectFrom('operationStep')
      .select('state')
      .where('fileId', '=', (await fileOf(one)).id)
      .execute();
    expect(steps).toEqual([]);
  });
});

describe('what is written', () => {
  it('lets an animated PNG be read by players', async () => {
    const files = await held('Moving', (folder) => {
      execFileSync('ffmpeg', [
        ...['-v', 'error', '-f', 'lavfi', '-i', 'testsrc=size=64x48:rate=5:duration=1'],
        ...['-f', 'apng', join(folder, 'moving.png')],
      ]);
    });
    const one = files.get('moving.png')!;
    const frames = () =>
      execFileSync('ffmpeg', ['-v', 'error', '-f', 'apng', '-i', one.path, '-f', 'framemd5', '-'], {
        encoding: 'utf8',
      });
    const before = frames();
    await changeRecords(db(), null, asSeen([one.id]), {
      title: 'Moves',
      taken: '2011-02-03 04:05:06',
    });
    await idle(archive);
    expect(exiv2(one.path)['Xmp.dc.title']).toBe('lang="x-default" Moves');
    expect(frames()).toBe(before);
  });

  it('says of a new block what a block must say', async () => {
    const files = await held('Blocks', async (folder) => {
      await writeJpeg(join(folder, 'plain.jpg'), 11);
      await sharp({ create: { width: 40, height: 30, channels: 3, background: '#468' } })
        .tiff()
        .toFile(join(folder, 'plain.tif'));
      await writeJpeg(join(folder, 'older.jpg'), 12, { 'ExifIFD:ExifVersion': '0220' });
    });
    const tool = await exiftoolPath();
    const warnings = (path: string) =>
      execFileSync(tool, ['-validate', '-warning', '-a', '-s3', path], { encoding: 'utf8' })
        .split('\n')
        .filter((line) => /required|requires|not allowed/.test(line));
    for (const [name, one] of files) {
      const before = warnings(one.path);
      await changeRecords(db(), null, asSeen([one.id]), {
        taken: '2011-02-03 04:05:06+01:00',
        position: '54.3207, 10.1349',
      });
      await idle(archive);
      expect([name, warnings(one.path).filter((line) => !before.includes(line))]).toEqual([
        name,
        [],
      ]);
    }
  });

  it('leaves what other programs keep behind the picture alone', async () => {
    const files = await held('Trailers', async (folder) => {
      await writeJpeg(join(folder, 'trailer.jpg'), 13);
      const bytes = readFileSync(join(folder, 'trailer.jpg'));
      writeFileSync(
        join(folder, 'trailer.jpg'),
        Buffer.concat([bytes, Buffer.from('words of others~MIE')]),
      );
    });
    const one = files.get('trailer.jpg')!;
    const before = readFileSync(one.path);
    await changeRecords(db(), null, asSeen([one.id]), { title: 'Beside' });
    await idle(archive);
    expect(readFileSync(one.path).equals(before)).toBe(true);
    expect(exiv2(`${one.path}.xmp`)['Xmp.dc.title']).toBe('lang="x-default" Beside');
  });

  it('is noted as it was written: who saves right after our rename is seen', async () => {
    const files = await held('Right after', (folder) =>
      writeJpeg(join(folder, 'one.jpg'), 14, { 'XMP-dc:Title': 'Ours' }),
    );
    const one = files.get('one.jpg')!;
    const file = await fileOf(one);
    await archive.worker.stop();
    await rewriteFile(archive.house, file, {
      seen: (await factsOf(file.path))!,
      version: 1,
      hasPicture: true,
      produce: async (target) => {
        await writeTagsTo(file.path, target, { 'XMP-dc:Source': 'Ours' });
        return toldOf((await readFacts(target, null)).record);
      },
    });
    const noted = await db()
      .selectFrom('file')
      .select(['inode', 'contentHash'])
      .where('id', '=', file.id)
      .executeTakeFirstOrThrow();
    const now = (await factsOf(file.path))!;
    expect(String(noted.inode)).toBe(String(now.ino));
    await setTags(file.path, { 'XMP-dc:Title': 'Theirs' });
    archive.worker = await startWorker(archive.house);
    await until(async () => (await valuesOf(one)).title === 'Theirs', 'theirs to be read');
  });
});
