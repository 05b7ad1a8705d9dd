import { readFileSync } from 'node:fs';
import { mkdir, mkdtemp, readdir, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { House } from '#server/house/house';
import { startWorker } from '#server/work/worker';
import { runTool } from '#server/tools/run';
import { bringIn } from './house';
import { machine, type BenchLine } from './report';

/** What a worker may take, whatever it is fed, in MB. */
const LIMIT_MB = 700;
const LOOK_MS = 50;

const residentMb = (): number =>
  Number(/VmRSS:\s+(\d+)/.exec(readFileSync('/proc/self/status', 'utf8'))![1]) / 1024;

/** Large originals of kinds that differ in how they are decoded; made by a process of its own. */
const MAKE = `
import sharp from 'sharp';
const [, folder, scale] = process.argv;
const picture = (megapixels) => {
  const height = Math.round(Math.sqrt((megapixels * scale * 1e6) / 1.5));
  const noise = { type: 'gaussian', mean: 120, sigma: 30 };
  const create = { width: Math.round(height * 1.5), height, channels: 3, background: '#567', noise };
  return sharp({ create, limitInputPixels: false });
};
await picture(60).tiff({ compression: 'deflate' }).toFile(folder + '/scan 60.tif');
await picture(60).toColourspace('rgb16').tiff({ compression: 'none' }).toFile(folder + '/scan 60 deep.tif');
await picture(100).jpeg({ quality: 90 }).toFile(folder + '/camera 100.jpg');
for (const quality of [90, 91])
  await picture(100).jpeg({ quality, progressive: true }).toFile(folder + '/web 100 at ' + quality + '.jpg');
await picture(60).png({ compressionLevel: 1 }).toFile(folder + '/drawing 60.png');
`;

async function makeLarge(folder: string, scale: number): Promise<void> {
  await mkdir(folder, { recursive: true });
  const make = ['--input-type=module', '--eval', MAKE, folder, String(scale)];
  await runTool(process.execPath, make, { seconds: 600, memory: 64 * 2 ** 30 });
  const seconds = Math.round(7200 * scale);
  await runTool(
    'ffmpeg',
    [
      ...['-v', 'error', '-f', 'lavfi', '-i', `testsrc=size=320x180:rate=5:duration=${seconds}`],
      ...['-f', 'lavfi', '-i', `sine=frequency=300:duration=${seconds}`, '-shortest'],
      ...['-c:v', 'mpeg4', '-c:a', 'mp2', join(folder, 'two hours.mkv')],
    ],
    { seconds: 600 },
  );
}

/**
 * The most memory a worker takes while it brings in very large originals.
 * @param count percent of the full sizes
 */
export async function memory(house: House, count: number): Promise<BenchLine> {
  const work = await mkdtemp(join(tmpdir(), 'mindful-memory-'));
  const card = join(work, 'card');
  await makeLarge(card, count / 100);
  const files = await readdir(card);
  const worker = await startWorker(house);
  let most = 0;
  const watch = setInterval(() => (most = Math.max(most, residentMb())), LOOK_MS);
  try {
    await bringIn(house, card, 'bench-memory');
  } finally {
    clearInterval(watch);
    await worker.stop();
    await rm(work, { recursive: true, force: true });
  }
  return {
    bench: 'memory',
    ours: Math.round(most),
    floor: LIMIT_MB,
    ratio: Math.round((most / LIMIT_MB) * 1000) / 1000,
    unit: 'MB',
    n: files.length,
    runs: 1,
    machine: machine(),
  };
}
