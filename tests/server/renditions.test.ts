import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, readdirSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import sharp, { type Sharp } from 'sharp';
import { beforeAll, describe, expect, it } from 'vitest';
import { parseQuery } from '#core/query/grammar';
import { HOUSE } from '#core/sight/viewer';
import { findIds, tilesOf } from '#server/catalogue/find';
import { showItem } from '#server/catalogue/show';
import type { ShownItem } from '#core/wire/shown';
import { originalOf } from '#server/files/located';
import { askForPicture } from '#server/renditions/again';
import { needsProxy } from '#server/renditions/proxy';
import { sendMedia } from '#server/renditions/media';
import { pictureFile, proxyFile, tilesFolder } from '#server/renditions/store';
import { tilesState } from '#server/renditions/tilesState';
import { KEEPER, bringIn, idle, until, useArchive } from '../support/archive';
import { dng } from '../support/dng';
import { setTags } from '../support/pictures';

const archive = useArchive();
const db = () => archive.house.db;
let source = '';

/** Left red, right blue, with a green bar at the top: tells which way up a picture stands. */
async function flag(width = 400, height = 300): Promise<Sharp> {
  const half = (background: string) =>
    sharp({ create: { width: width / 2, height, channels: 3, background } })
      .png()
      .toBuffer();
  const bar = await sharp({
    create: { width, height: Math.round(height / 5), channels: 3, background: '#00ff00' },
  })
    .png()
    .toBuffer();
  const whole = await sharp({ create: { width, height, channels: 3, background: '#000' } })
    .composite([
      { input: await half('#ff0000'), left: 0, top: 0 },
      { input: await half('#0000ff'), left: width / 2, top: 0 },
      { input: bar, left: 0, top: 0 },
    ])
    .png()
    .toBuffer();
  return sharp(whole);
}

async function itemNamed(name: string): Promise<ShownItem> {
  const { itemId } = await db()
    .selectFrom('file')
    .select('itemId')
    .where('name', '=', name)
    .executeTakeFirstOrThrow();
  return showItem(db(), KEEPER, itemId);
}

/** The colour in the middle of a part of a picture, parts counted in thirds. */
async function colourAt(path: string, column: number, row: number): Promise<string> {
  const { data, info } = await sharp(path)
    .removeAlpha()
    .raw()
    .toBuffer({ resolveWithObject: true });
  const x = Math.floor(((column + 0.5) * info.width) / 3);
  const y = Math.floor(((row + 0.5) * info.height) / 3);
  const at = (y * info.width + x) * info.channels;
  const [r, g, b] = [data[at]!, data[at + 1]!, data[at + 2]!];
  if (r > 150 && g < 110 && b < 110) return 'red';
  if (b > 150 && r < 110 && g < 110) return 'blue';
  if (g > 150 && r < 110 && b < 110) return 'green';
  return `${r} ${g} ${b}`;
}

const ffmpeg = (...args: string[]): void => {
  execFileSync('ffmpeg', ['-v', 'error', '-y', ...args]);
};

beforeAll(async () => {
  source = join(archive.folder, 'source');
  mkdirSync(source);
  const put = (name: string, bytes: Buffer | string): void =>
    writeFileSync(join(source, name), bytes);
  const picture = await flag();
  put('flag.png', await picture.clone().png().toBuffer());
  put('flag.webp', await picture.clone().webp({ quality: 95 }).toBuffer());
  put('flag.avif', await picture.clone().avif({ quality: 80, effort: 0 }).toBuffer());
  put('flag.gif', await picture.clone().gif().toBuffer());
  put(
    'flag.tif',
    await picture.clone().toColourspace('rgb16').tiff({ compression: 'lzw' }).toBuffer(),
  );
  put('wide.jpg', await picture.clone().withIccProfile('p3').jpeg({ quality: 95 }).toBuffer());
  put('print.jpg', await picture.clone().withIccProfile('cmyk').jpeg({ quality: 95 }).toBuffer());
  put(
    'clear.png',
    await sharp(
      Buffer.from(
        '<svg xmlns="http://www.w3.org/2000/svg" width="60" height="40"><circle cx="30" cy="20" r="15" fill="red"/></svg>',
      ),
    )
      .png()
      .toBuffer(),
  );
  const upright = await picture.clone().jpeg({ quality: 95 }).toBuffer();
  for (let turn = 1; turn <= 8; turn += 1) {
    put(`turn-${turn}.jpg`, upright);
    await setTags(join(source, `turn-${turn}.jpg`), { 'EXIF:Orientation#': String(turn) });
  }
  execFileSync(
    'heif-enc',
    ['-q', '90', '-o', join(source, 'flag.heic'), join(source, 'flag.png')],
    {
      stdio: 'ignore',
    },
  );
  const noise = await sharp({
    create: {
      width: 1600,
      height: 1200,
      channels: 3,
      background: '#808080',
      noise: { type: 'gaussian', mean: 128, sigma: 40 },
    },
  })
    .png()
    .toBuffer();
  const preview = await sharp(noise)
    .composite([{ input: await (await flag(1200, 900)).png().toBuffer(), left: 200, top: 150 }])
    .jpeg({ quality: 90 })
    .toBuffer();
  put('preview.dng', dng(640, 480, { preview }));
  put('turned.dng', dng(640, 480, { preview, orientation: 6 }));
  put('plain.dng', dng(640, 480));
  put(
    'pattern.svg',
    '<svg xmlns="http://www.w3.org/2000/svg" width="300" height="200"><rect width="300" height="200" fill="#00f"/></svg>',
  );
  put(
    'script.svg',
    `<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="300" height="200" onload="alert(1)">
      <script>while (true) {}</script><rect width="300" height="200" fill="#0000ff"/>
      <image xlink:href="flag.png" width="300" height="200"/><image href="file:///etc/passwd" width="10" height="10"/>
      <image href="http://127.0.0.1:9/x.png" width="10" height="10"/></svg>`,
  );
  put(
    'entity.svg',
    `<?xml version="1.0"?><!DOCTYPE svg [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;&a;&a;&a;&a;&a;&a;"><!ENTITY c "&b;&b;&b;&b;&b;&b;&b;&b;&b;&b;"><!ENTITY d "&c;&c;&c;&c;&c;&c;&c;&c;&c;&c;"><!ENTITY e "&d;&d;&d;&d;&d;&d;&d;&d;&d;&d;"><!ENTITY f "&e;&e;&e;&e;&e;&e;&e;&e;&e;&e;"><!ENTITY g "&f;&f;&f;&f;&f;&f;&f;&f;&f;&f;"><!ENTITY x SYSTEM "file:///etc/passwd">]>
     <svg xmlns="http://www.w3.org/2000/svg" width="300" height="200"><text y="20">&g;&x;</text></svg>`,
  );
  put(
    'sheet.pdf',
    '%PDF-1.1\n1 0 obj<</Type/Catalog/Pages 2 0 R>>endobj 2 0 obj<</Type/Pages/Kids[3 0 R]/Count 1>>endobj 3 0 obj<</Type/Page/Parent 2 0 R/MediaBox[0 0 300 150]/Contents 4 0 R>>endobj 4 0 obj<</Length 29>>stream\n1 0 0 rg 0 0 300 150 re f    \nendstream endobj\ntrailer<</Root 1 0 R/Size 5>>\n%%EOF',
  );
  put(
    'letters.woff2',
    readFileSync(
      'node_modules/@fontsource-variable/newsreader/files/newsreader-latin-opsz-normal.woff2',
    ),
  );
  // More than four hundred million pixels in a few kilobytes.
  put(
    'bomb.png',
    await sharp({
      create: { width: 20_001, height: 20_001, channels: 3, background: '#fff' },
      limitInputPixels: false,
    })
      .png({ compressionLevel: 9, palette: true, colours: 2 })
      .toBuffer(),
  );
  put('big.jpg', await (await flag(3000, 2000)).jpeg().toBuffer());
  const clip = ['-f', 'lavfi', '-i', 'testsrc2=size=320x180:rate=25:duration=2'];
  const tone = ['-f', 'lavfi', '-i', 'sine=frequency=440:duration=2'];
  ffmpeg(
    ...clip,
    ...tone,
    '-c:v',
    'libx264',
    '-pix_fmt',
    'yuv420p',
    '-c:a',
    'aac',
    join(source, 'plays.mp4'),
  );
  ffmpeg(
    ...clip,
    ...tone,
    '-c:v',
    'prores_ks',
    '-c:a',
    'pcm_s16le',
    '-timecode',
    '10:00:00:00',
    join(source, 'edit.mov'),
  );
  ffmpeg(...clip, '-c:v', 'mpeg2video', '-timecode', '01:02:03:04', join(source, 'tape.mxf'));
  ffmpeg(...tone, join(source, 'tone.wav'));
  ffmpeg(...tone, '-c:a', 'pcm_s16be', join(source, 'tone.aiff'));
  ffmpeg('-i', join(source, 'flag.png'), '-frames:v', '1', join(source, 'flag.bmp'));
  await bringIn(archive, source, { mode: 'in-place', place: await placeOf() });
});

async function placeOf() {
  const { addPlace } = await import('#server/places/places');
  return addPlace(archive.house, 'Source', source);
}

describe('pictures of photos', () => {
  it.each([
    ['flag.png', 'png'],
    ['flag.webp', 'webp'],
    ['flag.avif', 'avif'],
    ['flag.gif', 'gif'],
    ['flag.tif', 'tiff'],
    ['flag.heic', 'heic'],
    ['flag.bmp', 'bmp'],
    ['wide.jpg', 'jpeg'],
    ['print.jpg', 'jpeg'],
  ])('shows %s in three sizes, in its colours', async (name, format) => {
    const item = await itemNamed(name);
    expect(item).toMatchObject({ kind: 'photo', format, width: 400, height: 300, noPicture: null });
    const file = await originalOf(db(), item.id);
    for (const size of ['small', 'medium', 'large'] as const) {
      const path = pictureFile(archive.house, file.pictureKey, size);
      const about = await sharp(path).metadata();
      expect([about.format, about.width, about.space]).toEqual([
        'webp',
        size === 'small' ? 360 : 400,
        'srgb',
      ]);
    }
    const large = pictureFile(archive.house, file.pictureKey, 'large');
    if (name === 'print.jpg') return; // press colours are duller than the screen's
    expect([
      await colourAt(large, 1, 0),
      await colourAt(large, 0, 1),
      await colourAt(large, 2, 2),
    ]).toEqual(['green', 'red', 'blue']);
  });

  it.each([1, 2, 3, 4, 5, 6, 7, 8])('turns orientation %i upright', async (turn) => {
    const item = await itemNamed(`turn-${turn}.jpg`);
    const path = pictureFile(archive.house, (await originalOf(db(), item.id)).pictureKey, 'small');
    const lies = turn >= 5;
    expect([item.width, item.height]).toEqual(lies ? [300, 400] : [400, 300]);
    // Where the green bar of the top and the red half of the left come to stand (Exif 3.0, 4.6.5.1.6).
    const bar = {
      1: [1, 0],
      2: [1, 0],
      3: [1, 2],
      4: [1, 2],
      5: [0, 1],
      6: [2, 1],
      7: [2, 1],
      8: [0, 1],
    }[turn]!;
    const red = {
      1: [0, 1],
      2: [2, 1],
      3: [2, 1],
      4: [0, 1],
      5: [1, 0],
      6: [1, 0],
      7: [1, 2],
      8: [1, 2],
    }[turn]!;
    expect([
      await colourAt(path, bar[0]!, bar[1]!),
      await colourAt(path, red[0]!, red[1]!),
    ]).toEqual(['green', 'red']);
  });

  it('shows a raw file by its preview, upright, and develops one that has none', async () => {
    const shown = await itemNamed('preview.dng');
    expect(shown).toMatchObject({
      kind: 'photo',
      format: 'raw',
      noPicture: null,
      technical: { camera: 'Marlow Heron 5R' },
    });
    const key = (await originalOf(db(), shown.id)).pictureKey;
    expect(await colourAt(pictureFile(archive.house, key, 'large'), 0, 1)).toBe('red');
    const turned = await itemNamed('turned.dng');
    const turnedKey = (await originalOf(db(), turned.id)).pictureKey;
    const { width, height } = await sharp(
      pictureFile(archive.house, turnedKey, 'large'),
    ).metadata();
    expect(height).toBeGreaterThan(width);
    const plain = await itemNamed('plain.dng');
    expect(plain.noPicture).toBeNull();
    const about = await sharp(
      pictureFile(archive.house, (await originalOf(db(), plain.id)).pictureKey, 'large'),
    ).metadata();
    expect(about.width / about.height).toBeCloseTo(4 / 3, 1);
  });

  it('develops a raw file where one asks, and goes back to the camera’s picture', async () => {
    const { id } = await itemNamed('preview.dng');
    const large = async (): Promise<[key: string, colour: string]> => {
      await idle(archive);
      const { pictureKey } = await originalOf(db(), id);
      return [pictureKey, await colourAt(pictureFile(archive.house, pictureKey, 'large'), 0, 1)];
    };
    const [key] = await large();
    await askForPicture(archive.house, id, { developed: true });
    const [developed, colour] = await large();
    expect(developed).toBe(`${key}-developed`);
    expect(colour).not.toBe('red');
    await askForPicture(archive.house, id, null);
    expect(await large()).toEqual([key, 'red']);
    await expect(
      askForPicture(archive.house, (await itemNamed('big.jpg')).id, { developed: true }),
    ).rejects.toMatchObject({ code: 'bad-request' });
  });

  it('opens no bomb, and says why', async () => {
    expect((await itemNamed('bomb.png')).noPicture).toBe('It has more pixels than we open.');
  });

  it('gives tiles the colours of the whole, one pyramid for all who ask', async () => {
    const { id } = await itemNamed('big.jpg');
    expect((await tilesState(archive.house, HOUSE, id)).state).toBe('waiting');
    await Promise.all([tilesState(archive.house, HOUSE, id), tilesState(archive.house, HOUSE, id)]);
    const jobs = await db()
      .selectFrom('job')
      .select('id')
      .where('task', '=', 'tiles')
      .where('itemId', '=', id)
      .execute();
    expect(jobs).toHaveLength(1);
    await idle(archive);
    const state = await tilesState(archive.house, HOUSE, id);
    expect(state).toMatchObject({ state: 'ready', width: 3000, height: 2000 });
    const folder = tilesFolder(archive.house, (await originalOf(db(), id)).pictureKey);
    const levels = readdirSync(folder).map(Number).filter(Number.isFinite);
    const deepest = Math.max(...levels);
    expect(2 ** deepest).toBeGreaterThanOrEqual(3000);
    const columns = Math.ceil(3000 / state.size);
    const rows = Math.ceil(2000 / state.size);
    expect(readdirSync(join(folder, String(deepest)))).toHaveLength(columns * rows);
    expect(await colourAt(join(folder, String(deepest), '1_2.jpeg'), 1, 1)).toBe('red');
    expect(await colourAt(join(folder, String(deepest), '5_2.jpeg'), 1, 1)).toBe('blue');
  });
});

describe('pictures of everything else', () => {
  it('draws vector art, and nothing that it refers to or would run', async () => {
    const item = await itemNamed('pattern.svg');
    expect(item).toMatchObject({ kind: 'vector', noPicture: null });
    const { pictureKey } = await originalOf(db(), (await itemNamed('script.svg')).id);
    const path = pictureFile(archive.house, pictureKey, 'large');
    expect(await colourAt(path, 0, 1)).toBe('blue');
    expect(await colourAt(path, 1, 0)).toBe('blue');
    const entity = await itemNamed('entity.svg');
    if (entity.noPicture === null) {
      const key = (await originalOf(db(), entity.id)).pictureKey;
      const { data } = await sharp(pictureFile(archive.house, key, 'small'))
        .greyscale()
        .raw()
        .toBuffer({ resolveWithObject: true });
      // Had the entities grown, letters would cover the sheet.
      expect(data.filter((value) => value < 128).length / data.length).toBeLessThan(0.2);
    }
  });

  it('shows the first page of a PDF and a specimen of a font', async () => {
    const page = await itemNamed('sheet.pdf');
    const key = (await originalOf(db(), page.id)).pictureKey;
    expect(await colourAt(pictureFile(archive.house, key, 'large'), 1, 1)).toBe('red');
    const { width, height } = await sharp(pictureFile(archive.house, key, 'large')).metadata();
    expect([width, height]).toEqual([2048, 1024]);
    const font = await itemNamed('letters.woff2');
    expect(font).toMatchObject({ kind: 'font', noPicture: null });
    const specimen = await sharp(
      pictureFile(archive.house, (await originalOf(db(), font.id)).pictureKey, 'large'),
    ).stats();
    expect(specimen.channels[0]!.stdev).toBeGreaterThan(10);
  });

  it('takes a frame of footage and draws the wave of sound, with what the streams tell', async () => {
    const film = await itemNamed('edit.mov');
    expect(film).toMatchObject({
      kind: 'footage',
      width: 320,
      height: 180,
      noPicture: null,
      technical: { timecode: '10:00:00:00', videoCodec: 'prores', audioCodec: 'pcm_s16le' },
    });
    expect((await itemNamed('tape.mxf')).technical).toMatchObject({ timecode: '01:02:03:04' });
    const sound = await itemNamed('tone.wav');
    expect(sound).toMatchObject({ kind: 'sound', noPicture: null });
    const [tile] = await tilesOf(db(), HOUSE, [sound.id]);
    expect(tile!.duration).toBeCloseTo(2, 1);
  });

  it('makes proxies only of what no browser plays, at a size that plays', async () => {
    expect(needsProxy('mp4', { videoCodec: 'h264', audioCodec: 'aac' })).toBe(false);
    expect(needsProxy('mov', { videoCodec: 'h264', audioCodec: 'aac' })).toBe(true);
    expect(needsProxy('mp4', { videoCodec: 'hevc' })).toBe(true);
    expect(needsProxy('mp4', { videoCodec: 'h264', audioCodec: 'ac3' })).toBe(true);
    expect(needsProxy('wav', { audioCodec: 'pcm_s24le' })).toBe(false);
    expect(needsProxy('aiff', { audioCodec: 'pcm_s16be' })).toBe(true);
    await until(async () => (await jobsOf('proxy')).every((state) => state === 'done'), 'proxies');
    expect(await jobsOf('proxy')).toHaveLength(3);
    const film = await originalOf(db(), (await itemNamed('edit.mov')).id);
    const told = execFileSync(
      'ffprobe',
      [
        '-v',
        'error',
        '-show_entries',
        'stream=codec_name,pix_fmt',
        '-of',
        'csv=p=0',
        proxyFile(archive.house, film.pictureKey, 'footage'),
      ],
      { encoding: 'utf8' },
    );
    // The timecode's track has no codec a prober knows.
    expect(
      told
        .trim()
        .split('\n')
        .sort()
        .filter((line) => line !== 'unknown'),
    ).toEqual(['aac', 'h264,yuv420p']);
  });

  it('sends what plays: the original where it does, else its proxy, by ranges', async () => {
    const asked = (range?: string): Request =>
      new Request('http://archive/', range ? { headers: { range } } : {});
    const { id } = await itemNamed('plays.mp4');
    const whole = await sendMedia(archive.house, HOUSE, asked(), id);
    expect(whole.headers.get('content-type')).toBe('video/mp4');
    expect(Buffer.from(await whole.arrayBuffer())).toEqual(readFileSync(join(source, 'plays.mp4')));
    const part = await sendMedia(archive.house, HOUSE, asked('bytes=100-199'), id);
    expect(part.status).toBe(206);
    expect(Buffer.from(await part.arrayBuffer())).toEqual(
      readFileSync(join(source, 'plays.mp4')).subarray(100, 200),
    );
    const film = await originalOf(db(), (await itemNamed('edit.mov')).id);
    const proxy = await sendMedia(archive.house, HOUSE, asked(), film.itemId);
    expect(Number(proxy.headers.get('content-length'))).toBe(
      statSync(proxyFile(archive.house, film.pictureKey, 'footage')).size,
    );
    await proxy.body?.cancel();
    await expect(
      sendMedia(archive.house, HOUSE, asked(), (await itemNamed('flag.png')).id),
    ).rejects.toMatchObject({ code: 'not-found' });
  });

  it('leaves nothing behind in the work folder and nothing but pictures in the cache', async () => {
    expect(readdirSync(archive.house.folders.work)).toEqual([]);
    const all = await findIds(db(), HOUSE, parseQuery(''));
    for (const id of all) {
      const { pictureKey } = await originalOf(db(), id);
      const folder = join(pictureFile(archive.house, pictureKey, 'small'), '..');
      if (existsSync(folder))
        for (const name of readdirSync(folder))
          expect(name).toMatch(
            /^(small|medium|large)\.webp$|^proxy\.(mp4|m4a)$|^tiles$|^film\.json$|^strip\.jpg$|^peaks\.bin$/,
          );
    }
  });
});

const jobsOf = async (task: string): Promise<string[]> =>
  (await db().selectFrom('job').select('state').where('task', '=', task).execute()).map(
    ({ state }) => state,
  );

describe('pictures and places', () => {
  it('are kept under their content: a twin elsewhere needs none of its own', async () => {
    const folder = join(archive.folder, 'elsewhere');
    mkdirSync(folder);
    writeFileSync(join(folder, 'other.png'), readFileSync(join(source, 'flag.png')));
    const { addPlace } = await import('#server/places/places');
    await bringIn(archive, folder, {
      mode: 'in-place',
      place: await addPlace(archive.house, 'Elsewhere', folder),
    });
    const one = await originalOf(db(), (await itemNamed('flag.png')).id);
    const other = await originalOf(db(), (await itemNamed('other.png')).id);
    expect(other.pictureKey).toBe(one.pictureKey);
  });
});
