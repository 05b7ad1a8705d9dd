import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import sharp from 'sharp';
import { beforeAll, describe, expect, it } from 'vitest';
import { HOUSE } from '#core/people/viewer';
import { parseQuery } from '#core/query/grammar';
import { findIds } from '#server/catalogue/find';
import { writeTagsTo } from '#server/metadata/exiftool';
import { changeRecords, readRecords } from '#server/records/records';
import { bringIn, idle, placeNamed, useArchive } from '../support/archive';
import { exiv2 } from '../support/pictures';

/** PNG and WebP carry their records themselves; another tool reads them, and every frame stays as it was. */
const archive = useArchive();
const db = () => archive.house.db;
const NAMES = ['clear.png', 'lossless.webp', 'lossy.webp', 'moving.webp'];
let root = '';
const source = (): string => join(archive.folder, 'in');
const idOf = async (name: string): Promise<string> =>
  (await findIds(db(), HOUSE, parseQuery(`name "${name}"`)))[0]!;
/** MD5 of every decoded frame, by FFmpeg; what it cannot move through is decoded by libvips. */
async function frames(path: string): Promise<string> {
  if (path.endsWith('moving.webp'))
    return (await sharp(path, { animated: true }).raw().toBuffer()).toString('base64');
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
    await changeRecords(db(), null, [id], {
      title: 'Zoë’s kite',
      creator: ['Zoë Ångström', 'Bo'],
      addTerms: ['Kite', 'Sail, striped', 'Dune'],
      rating: 4,
    });
    await idle(archive);
    const tags = exiv2(path);
    expect(tags['Xmp.dc.title']).toContain('Zoë’s kite');
    expect(tags['Xmp.dc.creator']).toBe('Zoë Ångström, Bo');
    expect(tags['Exif.Image.Artist']).toBe('Zoë Ångström; Bo');
    expect(tags['Xmp.xmp.Rating']).toBe('4');
    for (const term of ['Kite', 'Sail, striped', 'Dune'])
      expect(tags['Xmp.dc.subject']).toContain(term);
    expect(existsSync(`${path}.xmp`)).toBe(false);
    expect(await frames(path)).toBe(before);
    const bytes = readFileSync(path);
    expect(await changeRecords(db(), null, [id], { rating: 4 })).toBeNull();
    await idle(archive);
    expect(readFileSync(path).equals(bytes)).toBe(true);
    await changeRecords(db(), null, [id], { creator: [], title: '' });
    await idle(archive);
    expect(exiv2(path)).not.toHaveProperty(['Xmp.dc.creator']);
    expect(exiv2(path)).not.toHaveProperty(['Exif.Image.Artist']);
    expect(exiv2(path)).not.toHaveProperty(['Xmp.dc.title']);
    expect(await frames(path)).toBe(before);
  });
});

describe('a file whose picture cannot be told', () => {
  it('is left as it is, and its record goes beside it', async () => {
    const path = join(root, 'torn.png');
    const bytes = readFileSync(path);
    await changeRecords(db(), null, [await idOf('torn.png')], { title: 'Torn' });
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
    await changeRecords(db(), null, [id], { rating: 5, title: 'Both' });
    await idle(archive);
    for (const path of [join(root, 'told.png'), join(root, 'told.png.xmp')]) {
      expect([path, exiv2(path)['Xmp.xmp.Rating']]).toEqual([path, '5']);
      expect(exiv2(path)['Xmp.dc.title']).toContain('Both');
    }
  });
});
