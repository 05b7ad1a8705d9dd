import { createReadStream } from 'node:fs';
import { copyFile, mkdir, mkdtemp, open as openFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ExifTool } from 'exiftool-vendored';
import { createXXHash128 } from 'hash-wasm';
import sharp from 'sharp';
import { EMPTY_RECORD, FIELD_KEYS } from '#core/records/fields';
import { HOUSE } from '#core/sight/viewer';
import { tagsFromRecord } from '#core/records/writing';
import { parseQuery } from '#core/query/grammar';
import { findIds } from '#server/catalogue/find';
import type { House } from '#server/house/house';
import { startWorker } from '#server/work/worker';
import { changeRecords } from '#server/records/records';
import { PICTURE_SIZES } from '#server/renditions/store';
import { compare } from './compare';
import { bringIn, queueEmpty } from './house';
import { forgetPictures, LANES, lanes, makeJpegs } from './material';
import { memory } from './memory';
import { refiling, rename, undoing } from './names';
import { bursts, open, proxy, renditions } from './pictures';
import { neighbours } from './neighbours';
import { measure, type BenchLine } from './report';

/** Benches make their own data from a seed in a folder of their own; bench/README.md explains each floor. */
/** The parts an intake cannot do without, each alone, one after the other, on the same cores. */
async function intakeFloor(paths: string[], folder: string): Promise<void> {
  await mkdir(folder, { recursive: true });
  await lanes(paths, async (path) => {
    const target = join(folder, path.split('/').at(-1)!);
    await copyFile(path, target);
    const handle = await openFile(target, 'r+');
    await handle.sync();
    await handle.close();
    // Hashed on the way out and read back, as a verified copy must be.
    for (const each of [path, target]) {
      const hasher = await createXXHash128();
      hasher.init();
      for await (const piece of createReadStream(each, { highWaterMark: 1 << 20 }))
        hasher.update(piece as Buffer);
      hasher.digest('hex');
    }
  });
  const tool = new ExifTool({ maxProcs: LANES });
  await Promise.all(
    paths.map((path) =>
      tool.readRaw(path, { readArgs: ['-json', '-G1', '-n', '-struct', '-fast'] }),
    ),
  );
  await tool.end();
  await lanes(paths, async (path) => {
    const { data, info } = await sharp(path)
      .resize({ width: PICTURE_SIZES.large, height: PICTURE_SIZES.large, fit: 'inside' })
      .raw()
      .toBuffer({ resolveWithObject: true });
    for (const size of Object.values(PICTURE_SIZES))
      await sharp(data, {
        raw: { width: info.width, height: info.height, channels: info.channels as 3 },
      })
        .resize({ width: size, height: size, fit: 'inside' })
        .webp({ quality: 80, effort: size === PICTURE_SIZES.large ? 0 : 2 })
        .toFile(join(folder, `${path.split('/').at(-1)}-${size}.webp`));
  });
  await rm(folder, { recursive: true, force: true });
}

/** Bring JPEGs of 24 megapixels in, ready on the wall. */
async function intake(house: House, count: number, runs: number): Promise<BenchLine> {
  const work = await mkdtemp(join(tmpdir(), 'mindful-card-'));
  const worker = await startWorker(house);
  const sources = await Promise.all(
    Array.from({ length: runs }, (_, run) =>
      makeJpegs(join(work, `card-${run}`), count, 6000, 4000, run + 1),
    ),
  );
  try {
    return await measure(
      'intake',
      count,
      runs,
      async (run) => {
        await forgetPictures(house);
        await bringIn(house, join(work, `card-${run}`), `bench-${run}`);
      },
      (run) => intakeFloor(sources[run]!, join(work, `floor-${run}`)),
    );
  } finally {
    await worker.stop();
    await rm(work, { recursive: true, force: true });
  }
}

/** Write fields into JPEGs, against ExifTool alone writing the same into copies. */
async function write(house: House, count: number, runs: number): Promise<BenchLine> {
  const work = await mkdtemp(join(tmpdir(), 'mindful-card-'));
  const worker = await startWorker(house);
  const paths = await makeJpegs(join(work, 'card'), count, 2400, 1600, 7);
  await bringIn(house, join(work, 'card'), 'bench-write');
  const ids = await findIds(house.db, HOUSE, parseQuery('in bench-write'));
  const values = (run: number) => ({
    title: `Bench ${run}`,
    caption: 'A caption of some length for a measure.',
    creditLine: `Credit ${run}`,
    creator: ['Bea Lund'],
    rating: (run % 5) + 1,
  });
  try {
    return await measure(
      'write',
      count,
      runs,
      async (run) => {
        await changeRecords(house.db, null, ids, values(run));
        await queueEmpty(house);
      },
      async (run) => {
        const folder = join(work, `floor-${run}`);
        await mkdir(folder);
        const copies = paths.map((path) => join(folder, path.split('/').at(-1)!));
        await Promise.all(paths.map((path, at) => copyFile(path, copies[at]!)));
        const record = { ...EMPTY_RECORD, ...values(run) };
        const keys = FIELD_KEYS.filter((key) => key in values(run));
        const tool = new ExifTool({ maxProcs: LANES });
        await Promise.all(
          copies.map((path) =>
            tool.write(path, tagsFromRecord(record, keys, { exif: true, iim: false }) as never, {
              writeArgs: ['-overwrite_original'],
            }),
          ),
        );
        await tool.end();
        await rm(folder, { recursive: true });
      },
    );
  } finally {
    await worker.stop();
    await rm(work, { recursive: true, force: true });
  }
}

export const BENCHES: Record<
  string,
  { run: (house: House, count: number, runs: number) => Promise<BenchLine>; count: number }
> = {
  intake: { run: intake, count: 500 },
  write: { run: write, count: 1000 },
  memory: { run: memory, count: 100 },
  compare: { run: compare, count: 100_000 },
  open: { run: open, count: 100 },
  renditions: { run: renditions, count: 40 },
  proxy: { run: proxy, count: 60 },
  bursts: { run: bursts, count: 100_000 },
  rename: { run: rename, count: 100_000 },
  undo: { run: undoing, count: 10_000 },
  refile: { run: refiling, count: 10_000 },
  neighbours: { run: neighbours, count: 20_000 },
};
