import { mkdir, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import sharp from 'sharp';
import type { House } from '#server/house/house';
import { random } from '../demo/paint/random';

/** What benches measure on: made from a seed, as costly as what cameras make. */
export const LANES = 2;

/** Do something with each, so many at once as there are lanes. */
export async function lanes<T>(list: T[], act: (entry: T) => Promise<unknown>): Promise<void> {
  const queue = [...list];
  const lane = async (): Promise<void> => {
    for (let entry = queue.shift(); entry !== undefined; entry = queue.shift()) await act(entry);
  };
  await Promise.all(Array.from({ length: LANES }, lane));
}

/** JPEGs as large as a camera's: a soft ground, detail and noise, each with bytes of its own. */
export async function makeJpegs(
  folder: string,
  count: number,
  width: number,
  height: number,
  seed: number,
): Promise<string[]> {
  await mkdir(folder, { recursive: true });
  const { next } = random(seed);
  const small = Buffer.from(
    Array.from({ length: 300 * 200 * 3 }, (_, at) => 110 + 70 * Math.sin(at / 900) + next() * 60),
  );
  const base = await sharp(small, { raw: { width: 300, height: 200, channels: 3 } })
    .resize(width, height, { kernel: 'cubic' })
    .jpeg({ quality: 92 })
    .toBuffer();
  const paths = Array.from({ length: count }, (_, at) =>
    join(folder, `B${String(at).padStart(5, '0')}.jpg`),
  );
  // Another step for the finest detail makes another picture of the same cost, without encoding it anew.
  const table = base.indexOf(Buffer.from([0xff, 0xdb])) + 5;
  await Promise.all(
    paths.map(async (path, at) => {
      const bytes = Buffer.from(base);
      bytes[table + 63] = 1 + (at % 250);
      bytes[table + 62] = 1 + ((Math.floor(at / 250) + seed * 7) % 250);
      await writeFile(path, bytes);
    }),
  );
  return paths;
}

/** Renditions are kept by picture, and these pictures are alike: each measure begins without them. */
export async function forgetPictures(house: House): Promise<void> {
  await house.db.deleteFrom('rendition').execute();
  await rm(join(house.folders.cache, 'pictures'), { recursive: true, force: true });
}

/** Numbers from 0 to 1, the same for the same seed. */
export function randomOf(seed: number): () => number {
  let state = seed;
  return () => {
    state = (state * 1_664_525 + 1_013_904_223) % 4_294_967_296;
    return state / 4_294_967_296;
  };
}
