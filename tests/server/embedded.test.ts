import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import sharp from 'sharp';
import { beforeAll, describe, expect, it } from 'vitest';
import { HOUSE } from '#core/sight/viewer';
import { parseQuery } from '#core/query/grammar';
import { findIds } from '#server/catalogue/find';
import { writeTagsTo } from '#server/metadata/exiftool';
import { changeRecords, readRecords } from '#server/records/records';
import { bringIn, idle, placeNamed, useArchive } from '../support/archive';
import { exiv2 } from '../support/pictures';
import { asSeen } from '#server/sight/seen';

/** Files that carry their records themselves: another tool reads them, and every frame stays as it was. */
const archive = useArchive();
const db = () => archive.house.db;
const NAMES = [
  'clear.png',
  'lossless.webp',
  'lossy.webp',
  'moving.webp',
  'leaves.tif',
  'tiled.tif',
  'still.heic',
  'plain.avif',
];
let root = '';
const source = (): string => join(archive.folder, 'in');
const idOf = async (name: string): Promise<string> =>
  (await findIds(db(), HOUSE, parseQuery(`name "${name}"`)))[0]!;
/** What another tool reads; of pictures of items what libheif hands on. */
function read(path: string): Record<string, string> {
  if (!/\.(heic|avif)$/.test(path)) return exiv2(path);
  const handed = join(archive.folder, 'handed.jpg');
  execFileSync('heif-convert', [path, handed], { stdio: 'ignore' });
  return exiv2(handed);
}
/** MD5 of every decoded frame, by FFmpeg; what it cannot move through is decoded by libvips. */
async function frames(path: string): Promise<string> {
  if (path.endsWith('.heic')) {
    const decoded = join(archive.folder, 'decoded.png');
    execFileSync('heif-convert', [path, decoded], { stdio: 'ignore' });
    return (await sharp(decoded).raw().toBuffer()).toString('base64');
  }
  if (/moving\.webp$|\.tif$|\.avif$/.test(path))
    return (await sharp(path, { pages: -1 }).raw().toBuffer()).toString('base64');
  return execFileSync('ffmpeg', ['-v', 'error', '-i', path, '-f', 'framemd5', '-']).toString();
}

beforeAll(async () => {
  mkdirSync(source());
  const plain = sharp(
    Buffer.from(Array.from({ length: 64 * 48 * 4 }, (_, at) => (at * 31) % 251)),
    { raw: { width: 64, height: 48, channels: 4 } },
  );
  await plain.clone().png().toFile(join(source(), 'clear.png'));
  await plain.clone().webp({ lossless: true }).toFile(join(source(), 'lossless.webp'));
  await plain.clone().webp().toFile(join(source(), 'lossy.webp'));
  const rows = Buffer.from(Array.from({ length: 32 * 96 * 3 }, (_, at) => (at * 17) % 253));
  await sharp(rows, { raw: { width: 32, height: 96, channels: 3, pageHeight: 32 } })
    .webp({ delay: [100, 100, 100] })
    .toFile(join(source(), 'moving.webp'));
  // Two leaves in strips, and one in tiles, its bytes the other way round.
  execFileSync('convert', [
    ...['-size', '90x70', 'plasma:red-blue', 'plasma:green-white', '-depth', '16'],
    ...['-compress', 'zip', join(source(), 'leaves.tif')],
  ]);
  execFileSync('convert', [
    ...['-size', '300x200', 'plasma:', '-define', 'tiff:tile-geometry=128x128'],
    ...['-define', 'tiff:endian=msb', join(source(), 'tiled.tif')],
  ]);
  await plain.clone().avif().toFile(join(source(), 'plain.avif'));
  execFileSync('heif-enc', [
    ...['-q', '60', join(source(), 'clear.png'), '-o', join(source(), 'still.heic')],
  ]);
  const cut = readFileSync(join(source(), 'clear.png'));
  writeFileSync(join(source(), 'torn.png'), cut.subarray(0, cut.length - 30));
  await bringIn(archive, source(), { mode: 'copy', place: await placeNamed(archive, 'Held') });
  root = join(archive.folder, 'Held');
});

describe.each(NAMES)('the record of %s', (name) => {
  it('goes into the file: another tool reads it, the picture stays, a second write changes nothing', async () => {
    const path = join(root, name);
    const before = await frames(path);
    const id = await idOf(name);
    await changeRecords(db(), null, asSeen([id]), {
      title: 'Zoë’s kite',
      creator: ['Zoë Ångström', 'Bo'],
      addTerms: ['Kite', 'Sail, striped', 'Dune'],
      rating: 4,
    });
    await idle(archive);
    const tags = read(path);
    expect(tags['Xmp.dc.title']).toContain('Zoë’s kite');
    expect(tags['Xmp.dc.creator']).toBe('Zoë Ångström, Bo');
    expect(tags['Exif.Image.Artist']).toBe('Zoë Ångström; Bo');
    expect(tags['Xmp.xmp.Rating']).toBe('4');
    for (const term of ['Kite', 'Sail, striped', 'Dune'])
      expect(tags['Xmp.dc.subject']).toContain(term);
    expect(existsSync(`${path}.xmp`)).toBe(false);
    expect(await frames(path)).toBe(before);
    const bytes = readFileSync(path);
    expect(await changeRecords(db(), null, asSeen([id]), { rating: 4 })).toBeNull();
    await idle(archive);
    expect(readFileSync(path).equals(bytes)).toBe(true);
    await changeRecords(db(), null, asSeen([id]), { creator: [], title: '' });
    await idle(archive);
    const cleared = read(path);
    for (const gone of ['Xmp.dc.creator', 'Exif.Image.Artist', 'Xmp.dc.title'])
      expect(cleared).not.toHaveProperty([gone]);
    expect(await frames(path)).toBe(before);
  });
});

describe('a file whose picture cannot be told', () => {
  it('is left as it is, and its record goes beside it', async () => {
    const path = join(root, 'torn.png');
    const bytes = readFileSync(path);
    await changeRecords(db(), null, asSeen([await idOf('torn.png')]), { title: 'Torn' });
    await idle(archive);
    expect(readFileSync(path).equals(bytes)).toBe(true);
    expect(exiv2(`${path}.xmp`)['Xmp.dc.title']).toContain('Torn');
  });
});

describe('a file that has a sidecar already', () => {
  it('says the same as its sidecar', async () => {
    const card = join(archive.folder, 'with sidecar');
    mkdirSync(card);
    await sharp({ create: { width: 50, height: 30, channels: 3, background: '#853' } })
      .png()
      .toFile(join(card, 'told.png'));
    await writeTagsTo(null, join(card, 'told.png.xmp'), { 'XMP-xmp:Rating': 2 });
    await bringIn(archive, card, { mode: 'copy', place: await placeNamed(archive, 'Held') });
    const id = await idOf('told.png');
    expect((await readRecords(db(), [id]))[0]!.values.rating).toBe(2);
    await changeRecords(db(), null, asSeen([id]), { rating: 5, title: 'Both' });
    await idle(archive);
    for (const path of [join(root, 'told.png'), join(root, 'told.png.xmp')]) {
      expect([path, exiv2(path)['Xmp.xmp.Rating']]).toEqual([path, '5']);
      expect(exiv2(path)['Xmp.dc.title']).toContain('Both');
    }
  });
});

/** XMP as it lies in a film (ISO/IEC 14496-12, a box of its own), read without the tool that wrote it. */
function xmpIn(path: string): string {
  const bytes = readFileSync(path).toString('utf8');
  return /<\?xpacket begin[\s\S]*?<\?xpacket end[^>]*>/.exec(bytes)?.[0] ?? '';
}

describe('documents and films', () => {
  const FILMS = ['clip.mp4', 'clip.mov'];
  let held = '';
  const framesOf = (name: string): string =>
    execFileSync('ffmpeg', [
      '-v',
      'error',
      '-i',
      join(held, name),
      '-f',
      'framemd5',
      '-',
    ]).toString();
  const pagesOf = (): string =>
    execFileSync('pdftoppm', ['-r', '20', '-gray', join(held, 'sheet.pdf')]).toString('base64');

  beforeAll(async () => {
    const inbox = join(archive.folder, 'films');
    mkdirSync(inbox);
    for (const name of FILMS)
      execFileSync('ffmpeg', [
        ...['-v', 'error', '-f', 'lavfi', '-i', 'testsrc=size=160x120:rate=25:duration=2'],
        ...[
          '-f',
          'lavfi',
          '-i',
          'sine=frequency=440:duration=2',
          '-shortest',
          '-timecode',
          '01:00:00:00',
        ],
        ...(name.endsWith('mp4') ? ['-movflags', '+faststart'] : []),
        join(inbox, name),
      ]);
    writeFileSync(
      join(inbox, 'sheet.ps'),
      '%!PS\n/Times-Roman findfont 40 scalefont setfont 50 400 moveto (One) show showpage 50 400 moveto (Two) show showpage\n',
    );
    execFileSync('gs', [
      ...['-q', '-dBATCH', '-dNOPAUSE', '-sDEVICE=pdfwrite', '-dCompatibilityLevel=1.4'],
      ...[`-sOutputFile=${join(inbox, 'sheet.pdf')}`, join(inbox, 'sheet.ps')],
    ]);
    rmSync(join(inbox, 'sheet.ps'));
    writeFileSync(
      join(inbox, 'locked.pdf'),
      readFileSync(join(inbox, 'sheet.pdf'))
        .toString('latin1')
        .replace('trailer\n<<', 'trailer\n<< /Encrypt 1 0 R'),
      'latin1',
    );
    await bringIn(archive, inbox, { mode: 'copy', place: await placeNamed(archive, 'Films') });
    held = join(archive.folder, 'Films');
  });

  it.each(FILMS)(
    '%s carries its record, plays as before, and is not written twice',
    async (name) => {
      const before = framesOf(name);
      const id = await idOf(name);
      await changeRecords(db(), null, asSeen([id]), {
        title: 'Zoë’s launch',
        creator: ['Zoë Ångström'],
      });
      await idle(archive);
      const xmp = xmpIn(join(held, name));
      expect(xmp).toContain('Zoë’s launch');
      expect(xmp).toContain('Zoë Ångström');
      expect(existsSync(join(held, `${name}.xmp`))).toBe(false);
      expect(framesOf(name)).toBe(before);
      const probed = execFileSync('ffprobe', [
        '-v',
        'error',
        '-show_entries',
        'stream_tags=timecode',
        join(held, name),
      ]);
      expect(probed.toString()).toContain('01:00:00:00');
      await changeRecords(db(), null, asSeen([id]), { title: '', creator: [] });
      await idle(archive);
      expect(xmpIn(join(held, name))).not.toContain('Zoë');
      expect(framesOf(name)).toBe(before);
    },
  );

  it('a PDF says so in XMP and in its own facts, its pages the same', async () => {
    const before = pagesOf();
    const id = await idOf('sheet.pdf');
    for (const title of ['First', 'Zoë’s sheet'])
      await changeRecords(db(), null, asSeen([id]), {
        title,
        creator: ['Zoë Ångström', 'Bo'],
        addTerms: ['Sail, striped', 'Kite'],
      });
    await idle(archive);
    const told = execFileSync('pdfinfo', [join(held, 'sheet.pdf')]).toString();
    expect(told).toMatch(/Title:\s+Zoë’s sheet/);
    expect(told).toMatch(/Author:\s+Zoë Ångström; Bo/);
    expect(told).toMatch(/Pages:\s+2/);
    expect(execFileSync('pdfinfo', ['-meta', join(held, 'sheet.pdf')]).toString()).toContain(
      'Sail, striped',
    );
    expect(pagesOf()).toBe(before);
    // Read again, nothing is told otherwise.
    expect((await readRecords(db(), [id]))[0]!.values).toMatchObject({
      title: 'Zoë’s sheet',
      creator: ['Zoë Ångström', 'Bo'],
    });
  });

  it('one that cannot be written into has its record beside it', async () => {
    const id = await idOf('locked.pdf');
    const bytes = readFileSync(join(held, 'locked.pdf'));
    await changeRecords(db(), null, asSeen([id]), { title: 'Locked' });
    await idle(archive);
    expect(readFileSync(join(held, 'locked.pdf')).equals(bytes)).toBe(true);
    expect(exiv2(join(held, 'locked.pdf.xmp'))['Xmp.dc.title']).toContain('Locked');
  });
});
