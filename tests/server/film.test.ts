import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import sharp from 'sharp';
import { beforeAll, describe, expect, it } from 'vitest';
import { timesOf } from '#core/footage/frames';
import { groundsOf, proposals, WISHES, type Ground } from '#core/footage/propose';
import { isWideGamut } from '#core/colour/gamut';
import { HOUSE } from '#core/sight/viewer';
import { parseQuery } from '#core/query/grammar';
import { findIds, tilesOf } from '#server/catalogue/find';
import { showItem } from '#server/catalogue/show';
import type { ShownItem } from '#core/wire/shown';
import { foldAccession } from '#server/bursts/bursts';
import { burstByHand } from '#server/lists/burstsByHand';
import { originalOf } from '#server/files/located';
import { dropSpans } from '#server/spans/deeds';
import { changeSpan, keepSpans } from '#server/spans/spans';
import { askForPicture } from '#server/renditions/again';
import { filmOf, findInPages, measured, sendPage, specimen } from '#server/renditions/looking';
import { probe } from '#server/renditions/probe';
import { filmFile, pictureFile, proxyFile } from '#server/renditions/store';
import { KEEPER, bringIn, idle, placeNamed, useArchive } from '../support/archive';
import { jpeg, writeJpeg } from '../support/pictures';
import { hex, writeZip } from '../support/zip';
import { asSeen } from '#server/sight/seen';

/** What is read for looking closely: frames, sound, pages, parts of pictures; and frames that are nearly the same. */
const archive = useArchive();
const db = () => archive.house.db;
let source = '';
let named: Map<string, ShownItem>;
let place: Awaited<ReturnType<typeof placeNamed>>;
const ffmpeg = (...args: string[]): void =>
  void execFileSync('ffmpeg', [
    '-v',
    'error',
    '-y',
    ...args.slice(0, -1),
    join(source, args.at(-1)!),
  ]);
const item = (name: string): ShownItem => named.get(name)!;
const request = new Request('http://archive/');

beforeAll(async () => {
  place = await placeNamed(archive, 'Looks');
  source = join(archive.folder, 'to look at');
  mkdirSync(source);
  writeFileSync(join(source, 'spoken.srt'), '1\n00:00:01,000 --> 00:00:02,000\nThe wind turns.\n');
  const picture = ['-f', 'lavfi', '-i', 'testsrc=size=320x180:rate=25:duration=4'];
  const tone = ['-f', 'lavfi', '-i', 'sine=frequency=997:duration=20'];
  ffmpeg(
    ...picture,
    ...tone,
    '-t',
    '4',
    '-c:v',
    'libx264',
    '-g',
    '250',
    '-timecode',
    '01:00:00:00',
    'clip.mov',
  );
  ffmpeg(
    ...picture,
    '-vf',
    "setpts='PTS+gte(N,50)*0.3/TB'",
    '-fps_mode',
    'vfr',
    '-c:v',
    'libx264',
    'uneven.mp4',
  );
  ffmpeg(
    ...['-f', 'lavfi', '-i', "color=black:s=64x64:r=50:d=1,format=gray,geq=lum='N*5'"],
    ...[
      '-c:v',
      'libx264',
      '-qp',
      '0',
      '-bf',
      '3',
      '-g',
      '100',
      '-pix_fmt',
      'yuvj420p',
      'counted.mp4',
    ],
  );
  // Black for a second, then a picture, then black again; heard from the second to the third second only.
  writeFileSync(
    join(source, 'chapters.txt'),
    ';FFMETADATA1\n[CHAPTER]\nTIMEBASE=1/1000\nSTART=0\nEND=1500\ntitle=Launch\n[CHAPTER]\nTIMEBASE=1/1000\nSTART=1500\nEND=4000\ntitle=Climb\n',
  );
  ffmpeg(
    ...[...picture, '-f', 'lavfi', '-i', 'sine=frequency=440:duration=4'],
    ...['-i', join(source, 'spoken.srt'), '-i', join(source, 'chapters.txt')],
    ...['-filter_complex', "[0:v]drawbox=t=fill:c=black:enable='lt(t,1)+gte(t,3)'[v]"],
    ...['-map', '[v]', '-map', '1:a', '-af', "volume=0:enable='lt(t,1)+gte(t,2)'", '-map', '2:s'],
    ...['-map_chapters', '3', '-c:v', 'libx264', '-c:s', 'subrip', 'told.mkv'],
  );
  ffmpeg(...tone, 'tone.wav');
  writeFileSync(join(source, 'notes.txt'), 'Sail lofts of the north shore\n'.repeat(300));
  writeFileSync(
    join(source, 'named.jpg'),
    await sharp(await jpeg(3))
      .png()
      .toBuffer(),
  );
  writeFileSync(
    join(source, 'mark.eps'),
    '%!PS-Adobe-3.0 EPSF-3.0\n%%BoundingBox: 0 0 200 100\n1 0 0 setrgbcolor 0 0 200 100 rectfill\nshowpage\n',
  );
  execFileSync('gs', [
    ...['-q', '-dSAFER', '-dBATCH', '-dNOPAUSE', '-sDEVICE=pdfwrite'],
    ...[`-sOutputFile=${join(source, 'two pages.pdf')}`, '-c'],
    '/Helvetica findfont 40 scalefont setfont 60 400 moveto (Harbour) show showpage 60 400 moveto (Lanterns) show showpage',
  ]);
  const text =
    '<w:document xmlns:w="w"><w:body><w:p><w:r><w:t>Wind Week, the programme</w:t></w:r></w:p></w:body></w:document>';
  writeZip(join(source, 'letter.docx'), [
    { name: '[Content_Types].xml', bytes: hex('<Types/>') },
    { name: 'word/document.xml', bytes: hex(text) },
  ]);
  const green = sharp({ create: { width: 120, height: 160, channels: 3, background: '#0a0' } });
  // Named as another kind: its own media type tells.
  writeZip(join(source, 'notes.zip'), [
    { name: 'mimetype', bytes: hex('application/vnd.oasis.opendocument.text'), stored: true },
    { name: 'Thumbnails/thumbnail.png', bytes: hex(await green.png().toBuffer()) },
  ]);
  writeZip(join(source, 'empty.pptx'), [{ name: 'ppt/none.xml', bytes: hex('<a/>') }]);
  ffmpeg(
    ...['-f', 'lavfi', '-i', 'testsrc=size=320x180:rate=25:duration=1', '-pix_fmt', 'yuv420p10le'],
    ...['-c:v', 'libx264', '-color_trc', 'smpte2084', '-colorspace', 'bt2020nc'],
    ...['-color_primaries', 'bt2020', 'bright.mp4'],
  );
  for (const seed of [1, 2, 3]) await writeJpeg(join(source, `frame-${seed}.jpg`), seed);
  await bringIn(archive, source, { mode: 'copy', place, filing: 'Looked at' });
  await idle(archive);
  const ids = await findIds(db(), HOUSE, parseQuery(''));
  const tiles = await tilesOf(db(), HOUSE, ids);
  named = new Map(
    await Promise.all(
      tiles.map(async ({ id, name }) => [name, await showItem(db(), KEEPER, id)] as const),
    ),
  );
}, 180_000);

describe('footage and sound', () => {
  it('show the first and the last frame of their spans, and the new ones once trimmed', async () => {
    const clip = item('counted.mp4').id;
    const { ids } = await keepSpans(db(), { id: null, viewer: HOUSE }, clip, [
      { ...{ first: 7, last: 21, isMarker: false, mark: '' }, title: 'Seven on', note: '' },
    ]);
    const frames = async (): Promise<number[]> => {
      await idle(archive);
      const [tile] = await tilesOf(db(), HOUSE, ids);
      const keys = [tile!.picture, tile!.lastPicture!].map((name) => name.split('/')[1]!);
      return Promise.all(
        keys.map(async (key) => {
          const file = pictureFile(archive.house, key, 'small');
          const { data } = await sharp(file)
            .greyscale()
            .raw()
            .toBuffer({ resolveWithObject: true });
          // Each frame is as light as its number, in steps of five.
          return Math.round(data[data.length >> 1]! / 5);
        }),
      );
    };
    expect(await frames()).toEqual([7, 21]);
    await changeSpan(db(), { id: null, viewer: HOUSE }, ids[0]!, { from: 12, to: 40 });
    expect(await frames()).toEqual([12, 39]);
    await dropSpans(db(), { id: null, viewer: HOUSE }, ids);
  });

  it('propose spans from cuts, what is heard, black, chapters and subtitles', async () => {
    const film = (await filmOf(archive.house, HOUSE, item('told.mkv').id))!;
    const times = timesOf(film.frames!, film.first);
    const spans = (ground: Ground): unknown[] =>
      proposals(film, { ground, ...WISHES[ground] }, times, { rate: 25, count: 100 }).map(
        ({ from, to, title }) => [from, to, title],
      );
    expect(groundsOf(film)).toEqual(['scenes', 'heard', 'loud', 'black', 'chapters', 'subtitles']);
    expect(spans('black')).toEqual([[25, 75, '']]);
    expect(spans('chapters')).toEqual([
      [0, 37, 'Launch'],
      [37, 100, 'Climb'],
    ]);
    expect(spans('subtitles')).toEqual([[25, 50, 'The wind turns.']]);
    const [heard, ...more] = spans('heard') as [number, number, string][];
    expect(more).toEqual([]);
    expect(Math.abs(heard![0] - 25)).toBeLessThanOrEqual(3);
    expect(Math.abs(heard![1] - 50)).toBeLessThanOrEqual(3);
    // A sine of an eighth of full scale lies 21 dB below it: it is loud only to who asks for less.
    const loud = (level: number): number =>
      proposals(film, { ground: 'loud', level, least: 0.5 }, times, { rate: 25 }).length;
    expect([loud(15), loud(25)]).toEqual([0, 1]);
  });

  it('say when each frame is shown, and show a strip of them', async () => {
    const film = await filmOf(archive.house, HOUSE, item('clip.mov').id);
    expect(film?.frames).toMatchObject({ count: 100 });
    expect((film!.frames as { step: number }).step).toBeCloseTo(0.04, 6);
    expect(item('clip.mov').technical).toMatchObject({ frames: 100, frameTiming: 'steady' });
    const { pictureKey } = await originalOf(db(), item('clip.mov').id);
    const strip = await sharp(filmFile(archive.house, pictureKey, 'strip')).metadata();
    expect(strip.width).toBe(film!.strip!.columns * film!.strip!.width);
    expect(readFileSync(filmFile(archive.house, pictureKey, 'peaks'))).toHaveLength(
      film!.peaks * 2,
    );
  });

  it('of uneven rate keep the time of every frame', async () => {
    const film = await filmOf(archive.house, HOUSE, item('uneven.mp4').id);
    const { times } = film!.frames as { times: number[] };
    expect(times).toHaveLength(100);
    // The encoder's clock ticks fifty times a second.
    expect(times[50]! - times[49]!).toBeGreaterThan(0.3);
    expect(item('uneven.mp4').technical.frameTiming).toBe('steady');
  });

  it('tell how loud they are: a tone of −18 dB is −21 LUFS', () => {
    const { loudness, truePeak } = item('tone.wav').technical;
    expect(loudness).toBeGreaterThan(-21.6);
    expect(loudness).toBeLessThan(-20.6);
    expect(truePeak).toBeCloseTo(-18, 0);
  });
});

describe('footage of high dynamic range', () => {
  it('is told, and shown on ordinary screens by a proxy of 8 bits', async () => {
    const { technical, noPicture, id } = item('bright.mp4');
    expect(noPicture).toBeNull();
    expect(technical).toMatchObject({ dynamicRange: 'PQ', bitDepth: 10 });
    const { pictureKey } = await originalOf(db(), id);
    const made = await probe(proxyFile(archive.house, pictureKey, 'footage'), 'mp4');
    expect(made.technical.bitDepth).toBe(8);
    expect(made.technical.dynamicRange).toBeUndefined();
    expect(made.technical.frameRate).toBe(25);
  });
});

describe('documents', () => {
  it('of offices show their first lines, or the small picture they carry, or say that they have neither', async () => {
    expect(item('letter.docx')).toMatchObject({ format: 'docx', noPicture: null });
    expect(item('notes.zip')).toMatchObject({ format: 'odt', noPicture: null });
    expect(item('empty.pptx').noPicture).toContain('no text');
    const colour = async (name: string): Promise<number[]> => {
      const { pictureKey } = await originalOf(db(), item(name).id);
      const whole = sharp(pictureFile(archive.house, pictureKey, 'small')).removeAlpha();
      return [...(await whole.resize(1, 1).raw().toBuffer())];
    };
    const [red, green] = await colour('notes.zip');
    expect(green! > red! + 80).toBe(true);
    // Paper, with some ink on it.
    expect(Math.min(...(await colour('letter.docx')))).toBeGreaterThan(200);
    const { pictureKey } = await originalOf(db(), item('letter.docx').id);
    const { channels } = await sharp(pictureFile(archive.house, pictureKey, 'large')).stats();
    expect(channels[0]!.min).toBeLessThan(80);
  });

  it('show their first lines; PostScript what it draws', async () => {
    for (const name of ['notes.txt', 'spoken.srt', 'mark.eps', 'two pages.pdf'])
      expect([name, item(name).noPicture]).toEqual([name, null]);
    const { pictureKey } = await originalOf(db(), item('mark.eps').id);
    const { data } = await sharp(pictureFile(archive.house, pictureKey, 'small'))
      .resize(1, 1)
      .raw()
      .toBuffer({ resolveWithObject: true });
    expect(data[0]! > 230 && data[1]! < 30).toBe(true);
  });

  it('are leafed through and searched; what is no document is not', async () => {
    const { id, technical } = item('two pages.pdf');
    expect(technical.pages).toBe(2);
    expect(await findInPages(archive.house, HOUSE, id, 'LANTERNS')).toMatchObject([
      { page: 2, count: 1 },
    ]);
    const page = await sendPage(archive.house, HOUSE, request, id, 2);
    const { width, height } = await sharp(Buffer.from(await page.arrayBuffer())).metadata();
    expect(Math.max(width, height)).toBe(2048);
    await expect(sendPage(archive.house, HOUSE, request, id, 9)).rejects.toThrow();
    await expect(specimen(archive.house, HOUSE, id, 'x')).rejects.toMatchObject({
      code: 'not-found',
    });
    await expect(filmOf(archive.house, HOUSE, id)).rejects.toMatchObject({ code: 'not-found' });
  });
});

describe('pictures', () => {
  it('named otherwise are what their bytes say', () => {
    expect(item('named.jpg').format).toBe('png');
  });

  it('tell how sharp a part of them is', async () => {
    const whole = { left: 0, top: 0, width: 1, height: 1 };
    const found = await measured(archive.house, HOUSE, item('frame-1.jpg').id, whole);
    expect(found.sharpness).toBeGreaterThan(0);
    expect(item('frame-1.jpg').technical.sharpness).toBeGreaterThan(0);
  });

  it('beyond sRGB keep their colours, in P3', async () => {
    const p3 = await sharp({ create: { width: 80, height: 60, channels: 3, background: '#0c0' } })
      .withIccProfile('p3')
      .jpeg()
      .toBuffer();
    const { icc } = await sharp(p3).metadata();
    expect(isWideGamut(icc!)).toBe(true);
    writeFileSync(join(source, 'p3.jpg'), p3);
    await bringIn(archive, source, { mode: 'copy', place, filing: 'Looked at' });
    await idle(archive);
    const [id] = await findIds(db(), HOUSE, parseQuery('name is p3.jpg'));
    const { pictureKey } = await originalOf(db(), id!);
    const made = await sharp(pictureFile(archive.house, pictureKey, 'large')).metadata();
    expect(isWideGamut(made.icc!)).toBe(true);
  });

  it('that were not made are tried again', async () => {
    const { id } = item('frame-2.jpg');
    const { pictureKey } = await originalOf(db(), id);
    await db().updateTable('item').set({ noPicture: 'It was so.' }).where('id', '=', id).execute();
    await askForPicture(archive.house, id);
    await idle(archive);
    expect((await showItem(db(), KEEPER, id)).noPicture).toBeNull();
    expect(existsSync(pictureFile(archive.house, pictureKey, 'large'))).toBe(true);
  });
});

describe('bursts', () => {
  const frames = () => ['frame-1.jpg', 'frame-2.jpg', 'frame-3.jpg'].map((name) => item(name).id);
  const lead = async (): Promise<string[]> => {
    const found = await findIds(db(), HOUSE, parseQuery('has lead'));
    return frames().filter((id) => found.includes(id));
  };

  it('hang as one, the sharpest first; by hand otherwise, and that stays', async () => {
    const ids = frames();
    for (const [at, id] of ids.entries())
      await db()
        .updateTable('item')
        .set({
          ...{
            takenFrom: `2026-09-12T10:00:0${at}`,
            takenTo: `2026-09-12T10:00:0${at}`,
            takenEdtf: `2026-09-12T10:00:0${at}`,
          },
          ...{
            camera: 'Marlow Heron 5',
            likeness: '5',
            technical: JSON.stringify({ sharpness: 20 + at }),
          },
        })
        .where('id', '=', id)
        .execute();
    const { accessionId } = await db()
      .selectFrom('item')
      .select('accessionId')
      .where('id', '=', ids[0]!)
      .executeTakeFirstOrThrow();
    expect(await foldAccession(db(), accessionId)).toBe(3);
    expect(await foldAccession(db(), accessionId)).toBe(0);
    expect(await lead()).toEqual([ids[2]]);
    const [tile] = await tilesOf(db(), HOUSE, [ids[2]!]);
    expect(tile).toMatchObject({ burstSize: 3, burstLead: true });
    expect(await findIds(db(), HOUSE, parseQuery(`burst "${tile!.burst}"`))).toHaveLength(3);
    await burstByHand(db(), { id: null, viewer: HOUSE }, asSeen([ids[0]!]), 'first');
    await foldAccession(db(), accessionId);
    expect(await lead()).toEqual([ids[0]]);
    await burstByHand(db(), { id: null, viewer: HOUSE }, asSeen([ids[1]!]), 'unfold');
    await foldAccession(db(), accessionId);
    expect(await lead()).toEqual(ids);
    await burstByHand(db(), { id: null, viewer: HOUSE }, asSeen([ids[1]!, ids[2]!]), 'fold');
    expect(await lead()).toEqual([ids[0], ids[1]]);
  });
});
