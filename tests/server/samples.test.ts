import { HOUSE } from '#core/sight/viewer';
import { copyFileSync, mkdirSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { filmOf } from '#server/renditions/looking';
import { bringIn, idle, placeNamed, useArchive } from '../support/archive';

/** Real files, hostile ones and coded clips that lie outside of the application: {@link ./agreement.test}. */
const SAMPLES = process.env['MINDFUL_SAMPLES'] ?? '';

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
});
