import { HOUSE } from '#core/sight/viewer';
import { copyFileSync, mkdirSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { execFileSync } from 'node:child_process';
import sharp from 'sharp';
import { describe, expect, it } from 'vitest';
import { tilesOf } from '#server/catalogue/find';
import { pictureFile } from '#server/renditions/store';
import { keepSpans } from '#server/spans/spans';
import { filmOf } from '#server/renditions/looking';
import { bringIn, idle, placeNamed, useArchive } from '../support/archive';

/** Real files, hostile ones and coded clips that lie outside of the application: {@link ./agreement.test}. */
const SAMPLES = process.env['MINDFUL_SAMPLES'] ?? '';

/** Sixteen squares of 20 pixels across the top of a picture of 320 × 180; white is one, the lowest bit at the left. */
const BITS = Array.from({ length: 16 }, (_, bit) => bit);
const numberOn = (grey: Buffer, offset = 0): number =>
  BITS.reduce(
    (sum, bit) => sum + (grey[offset + 10 * 320 + bit * 20 + 10]! > 127 ? 1 << bit : 0),
    0,
  );

/** Numbers on all frames that FFmpeg itself shows of a clip, in their order. */
function numbersShown(path: string): number[] {
  const grey = execFileSync(
    'ffmpeg',
    [
      ...['-v', 'error', '-noautorotate', '-i', path, '-map', '0:v:0', '-fps_mode', 'passthrough'],
      ...['-vf', 'scale=320:180', '-pix_fmt', 'gray', '-f', 'rawvideo', '-'],
    ],
    { maxBuffer: 1 << 30 },
  );
  const count = grey.length / (320 * 180);
  return Array.from({ length: count }, (_, frame) => numberOn(grey, frame * 320 * 180));
}

if (!SAMPLES) console.log('left out: files of others (MINDFUL_SAMPLES names no samples)');

describe.runIf(SAMPLES !== '')('files of others', () => {
  const archive = useArchive();

  async function brought(part: string): Promise<
    {
      id: string;
      name: string;
      noPicture: string | null;
      pictured: boolean;
      technical: { frames?: number; loudness?: number };
    }[]
  > {
    const source = join(archive.folder, part);
    mkdirSync(source);
    for (const name of readdirSync(join(SAMPLES, part)))
      if (!name.endsWith('.json')) copyFileSync(join(SAMPLES, part, name), join(source, name));
    const place = await placeNamed(archive, `Of others, ${part}`);
    await bringIn(archive, source, { mode: 'copy', place, filing: part });
    await idle(archive);
    const rows = await archive.house.db
      .selectFrom('item as i')
      .innerJoin('file as f', 'f.itemId', 'i.id')
      .leftJoin('rendition as r', (join) =>
        join.onRef('r.pictureKey', '=', 'f.pictureKey').on('r.recipe', '=', 'large'),
      )
      .select(['i.id', 'f.name', 'i.noPicture', 'i.technical', 'r.recipe'])
      .where('f.placeId', '=', place.id)
      .where('f.role', '=', 'original')
      .execute();
    return rows.map(({ recipe, ...row }) => ({ ...row, pictured: recipe !== null }));
  }

  it.each(['camera', 'hostile'])(
    'of %s have a picture or say why not; none keeps the rest waiting',
    async (part) => {
      const began = Date.now();
      const items = await brought(part);
      expect(items.length).toBeGreaterThan(50);
      for (const { name, noPicture, pictured } of items)
        expect([name, pictured, noPicture !== null]).toEqual([name, !noPicture, !pictured]);
      expect(Date.now() - began).toBeLessThan(240_000);
      const failed = await archive.house.db
        .selectFrom('job')
        .select(['task', 'title', 'reason'])
        .where('state', '=', 'failed')
        // A clip that cannot be played says so where it would play.
        .where('task', '!=', 'proxy')
        .execute();
      expect(failed).toEqual([]);
      if (part === 'camera')
        expect(items.filter(({ pictured }) => pictured).length).toBeGreaterThan(items.length * 0.9);
    },
    260_000,
  );

  it('of clips tell their frames, and a known tone its loudness', async () => {
    const items = await brought('clips');
    const of = (name: string) => items.find((one) => one.name === name)!;
    const frames = Object.fromEntries(
      [...items].map(({ name, technical }) => [name, technical.frames]),
    );
    expect(frames).toMatchObject({
      'long-gop-250.mp4': 250,
      'edit-list-start.mp4': 212,
      'tc-2997df-minute-drop.mov': 120,
      'tc-5994df.mp4': 240,
      'h264.ts': 50,
      'fragmented.mp4': 100,
    });
    expect(of('tone-minus23.flac').technical.loudness).toBeCloseTo(-23, 1);
    const film = await filmOf(archive.house, HOUSE, of('h264.ts').id);
    expect(film!.first).toBeGreaterThan(0);
  }, 120_000);

  it('of clips: the frame a span names is the frame its pictures show, first and last', async () => {
    const clips = await archive.house.db
      .selectFrom('item as i')
      .innerJoin('file as f', 'f.itemId', 'i.id')
      .innerJoin('place as p', 'p.id', 'f.placeId')
      .select(['i.id', 'f.name', 'i.technical'])
      .where('p.name', '=', 'Of others, clips')
      .where('f.role', '=', 'original')
      .where('i.kind', '=', 'footage')
      .execute();
    expect(clips.length).toBeGreaterThan(9);
    const told: Record<string, unknown> = {};
    const known: Record<string, unknown> = {};
    for (const { id, name, technical } of clips) {
      const numbers = numbersShown(join(SAMPLES, 'clips', name));
      // The same frames by two ways: counted by packets, and decoded.
      expect([name, technical.frames]).toEqual([name, numbers.length]);
      const last = numbers.length - 1;
      const wished = [
        [0, 1],
        [Math.floor(last / 3), Math.floor((last * 2) / 3)],
        [last - 1, last],
      ] as const;
      const spans = wished.map(([first, to]) => ({
        ...{ first, last: to, isMarker: false, mark: '' as const },
        ...{ title: '', note: '' },
      }));
      const { ids } = await keepSpans(archive.house.db, { id: null, viewer: HOUSE }, id, spans);
      await idle(archive);
      const tiles = await tilesOf(archive.house.db, HOUSE, ids);
      const shown: number[][] = [];
      for (const span of ids) {
        const tile = tiles.find((one) => one.id === span)!;
        const ends = [tile.picture, tile.lastPicture ?? ''].map(async (path) => {
          const picture = sharp(pictureFile(archive.house, path.split('/')[1]!, 'small'));
          const { width, height } = await picture.metadata();
          // Turned for whoever looks; the squares are read as the picture lies in the file.
          if (width < height) picture.rotate(90);
          const flat = await picture.toBuffer();
          const upright = sharp(flat).resize(320, 180, { fit: 'fill' });
          return numberOn(await upright.greyscale().raw().toBuffer());
        });
        shown.push(await Promise.all(ends));
      }
      told[name] = shown;
      known[name] = wished.map((ends) => ends.map((frame) => numbers[frame]));
    }
    expect(told).toEqual(known);
  }, 240_000);
});
