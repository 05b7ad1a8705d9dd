import { execFile } from 'node:child_process';
import { mkdir, mkdtemp, readFile, rm } from 'node:fs/promises';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import type { Driver } from 'selenium-webdriver/chrome.js';
import { foldBursts, type Frame } from '#core/bursts/fold';
import { HOUSE } from '#core/sight/viewer';
import { parseQuery } from '#core/query/grammar';
import { ArchiveError } from '#core/errors';
import { addPerson } from '#server/auth/people';
import { findIds } from '#server/catalogue/find';
import type { House } from '#server/house/house';
import { makePicturesOf } from '#server/renditions/pictures';
import { makeProxy } from '#server/renditions/proxy';
import { PICTURE_SIZES, pictureFile } from '#server/renditions/store';
import { startWorker } from '#server/work/worker';
import { buildIfChanged, serve } from '../cli/serve';
import { openBrowser, type Visitor } from '../tests/support/browser';
import { bringIn, queueEmpty } from './house';
import { forgetPictures, lanes, makeJpegs } from './material';
import { measure, type BenchLine } from './report';

/** What is made of pictures and footage, against the tools alone. */
const run = promisify(execFile);
const VIPS = 'vipsthumbnail';

/** @throws ArchiveError setting-refused where the floor's tool is not installed */
async function needVips(): Promise<void> {
  await run(VIPS, ['--version']).catch(() => {
    throw new ArchiveError('setting-refused', 'Install libvips-tools: it is the floor.');
  });
}

/** The same sizes by libvips' own command: the largest from the file, each smaller one from the next larger. */
async function thumbnails(path: string, folder: string): Promise<void> {
  const name = path.split('/').at(-1)!;
  const recipes = { large: 'Q=82,effort=0', medium: 'Q=80,effort=2', small: 'Q=78,effort=2' };
  let from = path;
  for (const size of ['large', 'medium', 'small'] as const) {
    const to = join(folder, `${name}-${size}.webp`);
    const edge = PICTURE_SIZES[size];
    await run(VIPS, [from, '-s', `${edge}x${edge}>`, '-o', `${to}[${recipes[size]}]`], {
      env: { ...process.env, VIPS_CONCURRENCY: '1' },
    });
    from = to;
  }
}

/** Three pictures each of camera JPEGs, with what is measured on them and noted of them. */
export async function renditions(house: House, count: number, runs: number): Promise<BenchLine> {
  await needVips();
  const work = await mkdtemp(join(tmpdir(), 'mindful-card-'));
  const paths = await makeJpegs(join(work, 'card'), count, 6000, 4000, 3);
  const worker = await startWorker(house);
  try {
    await bringIn(house, join(work, 'card'), 'bench-renditions');
    await worker.stop();
    const ids = await findIds(house.db, HOUSE, parseQuery('in bench-renditions'));
    return await measure(
      'renditions',
      count,
      runs,
      async () => {
        await forgetPictures(house);
        await lanes(ids, (itemId) => makePicturesOf(house, { itemId, parentId: null }));
      },
      async (at) => {
        const folder = join(work, `floor-${at}`);
        await mkdir(folder);
        await lanes(paths, (path) => thumbnails(path, folder));
        await rm(folder, { recursive: true });
      },
    );
  } finally {
    await rm(work, { recursive: true, force: true });
  }
}

/** A proxy of a minute of footage. @param count seconds of it */
export async function proxy(house: House, count: number, runs: number): Promise<BenchLine> {
  const work = await mkdtemp(join(tmpdir(), 'mindful-card-'));
  const card = join(work, 'card');
  await mkdir(card);
  const clip = join(card, 'clip.mov');
  await run('ffmpeg', [
    ...['-v', 'error', '-f', 'lavfi', '-i', `testsrc2=size=1920x1080:rate=25:duration=${count}`],
    ...[
      '-f',
      'lavfi',
      '-i',
      `sine=duration=${count}`,
      '-c:v',
      'mpeg4',
      '-q:v',
      '3',
      '-c:a',
      'aac',
      clip,
    ],
  ]);
  const worker = await startWorker(house);
  try {
    await bringIn(house, card, 'bench-proxy');
    await worker.stop();
    const [itemId] = await findIds(house.db, HOUSE, parseQuery('in bench-proxy'));
    return await measure(
      'proxy',
      count,
      runs,
      () => makeProxy(house, { itemId } as never),
      async () => {
        await run('ffmpeg', [
          ...['-v', 'error', '-y', '-i', clip, '-map', '0:v:0', '-map', '0:a:0?'],
          ...['-fps_mode', 'passthrough', '-vf', "scale=-2:'min(540,ih)'", '-c:v', 'libx264'],
          ...['-preset', 'veryfast', '-crf', '24', '-g', '30', '-pix_fmt', 'yuv420p'],
          ...['-c:a', 'aac', '-b:a', '128k', '-ac', '2', '-movflags', '+faststart'],
          join(work, 'floor.mp4'),
        ]);
      },
    );
  } finally {
    await rm(work, { recursive: true, force: true });
  }
}

/** Frames of a busy year folded, against sorting as many times. @param count frames */
export async function bursts(_house: House, count: number, runs: number): Promise<BenchLine> {
  const frames = Array.from({ length: count }, (_, at): Frame => {
    const burst = Math.floor(at / 7);
    return {
      id: String(at),
      camera: `camera ${burst % 3}`,
      ...{ name: `K${at}.jpg`, width: 6000, height: 4000 },
      at: burst * 40_000 + (at % 7) * 300,
      likeness: [(burst * 2_654_435_761) >>> 0, (burst * 40_503 + (at % 2)) >>> 0],
      sharpness: at % 100,
      lost: 0,
      rating: 0,
    };
  });
  return measure(
    'bursts',
    count,
    runs,
    () => Promise.resolve(void foldBursts(frames)),
    () => Promise.resolve(void frames.map(({ at }) => at).sort((a, b) => a - b)),
  );
}

const PORT = 42_282;
const KEEPER = {
  name: 'Bench',
  email: 'bench@example.org',
  password: 'measure twice',
  role: 'keeper',
} as const;

/**
 * Notes in every page when its picture was first painted: as an image, or in the viewer that takes the image's place,
 * whichever comes first.
 */
const WATCH = `(() => {
  const note = (at) => { window.paintedAt = Math.min(at, window.paintedAt ?? Infinity); };
  new PerformanceObserver((list) => {
    for (const one of list.getEntries()) if (one.url && one.size > 100000) note(one.renderTime || one.loadTime);
  }).observe({ type: 'largest-contentful-paint', buffered: true });
  const look = () => {
    if (document.querySelector('.zoom[data-ready=true]')) note(performance.now());
    else requestAnimationFrame(look);
  };
  requestAnimationFrame(look);
})()`;

/** When the picture of a page was first painted, s since its address was asked for. */
async function painted({ driver }: Visitor, address: string): Promise<number> {
  await driver.get(address);
  const found = await driver.wait(
    () => driver.executeScript<number | null>('return window.paintedAt ?? null'),
    20_000,
  );
  return found! / 1000;
}

/**
 * The Close view of a picture of 100 megapixels: from its address to its first full picture, against a bare page that
 * holds nothing but the same prepared picture, in the same browser.
 * @param count megapixels
 */
export async function open(house: House, count: number, runs: number): Promise<BenchLine> {
  const work = await mkdtemp(join(tmpdir(), 'mindful-card-'));
  const width = Math.round(Math.sqrt(count * 1e6 * 1.5));
  // One for each look: the second time its picture is in the browser already.
  await makeJpegs(join(work, 'card'), runs + 1, width, Math.round(width / 1.5), 5);
  const worker = await startWorker(house);
  await bringIn(house, join(work, 'card'), 'bench-open');
  await worker.stop();
  const items = await house.db
    .selectFrom('item as i')
    .innerJoin('file as f', 'f.itemId', 'i.id')
    .select(['i.number', 'f.pictureKey'])
    .where('f.role', '=', 'original')
    .orderBy('i.number')
    .execute();
  const picture = await readFile(pictureFile(house, items[0]!.pictureKey, 'large'));
  const bare = createServer((request, response) => {
    const isPicture = request.url === '/picture';
    response.writeHead(200, {
      'content-type': isPicture ? 'image/webp' : 'text/html',
      'cache-control': 'no-store',
    });
    // Chromium does not count a picture that fills the window.
    response.end(isPicture ? picture : '<!doctype html><img src="/picture" style="width:70%">');
  });
  await new Promise<void>((ready) => bare.listen(0, '127.0.0.1', ready));
  await addPerson(house.db, KEEPER);
  await buildIfChanged((line) => console.error(line));
  const serving = await serve({ ...house.settings, host: '127.0.0.1', port: PORT });
  const visitor = await openBrowser(serving.address);
  try {
    await (visitor.driver as Driver).sendDevToolsCommand('Page.addScriptToEvaluateOnNewDocument', {
      source: WATCH,
    });
    await visitor.signIn(KEEPER.email, KEEPER.password);
    const ours = (at: number): string => `${serving.address}/catalogue/${items[at]!.number}`;
    const floor = `http://127.0.0.1:${(bare.address() as AddressInfo).port}/`;
    // Once before: both servers are warm, and the page's code is in the browser.
    await painted(visitor, ours(runs));
    await painted(visitor, floor);
    return await measure(
      'open',
      count,
      runs,
      async (at) => {
        await queueEmpty(house);
        return painted(visitor, ours(at));
      },
      async () => {
        await queueEmpty(house);
        return painted(visitor, floor);
      },
    );
  } finally {
    await visitor.quit();
    await serving.stop();
    bare.close();
    await rm(work, { recursive: true, force: true });
  }
}
