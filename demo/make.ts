import { existsSync } from 'node:fs';
import { copyFile, mkdir, readFile, rm, utimes, writeFile } from 'node:fs/promises';
import { cpus } from 'node:os';
import { dirname, join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { APPLICATION } from '#server/house/application';
import { ExifTool } from 'exiftool-vendored';
import {
  CARD_CLIPS,
  CLIPS,
  makeClip,
  makeLayout,
  makePattern,
  makeSheet,
  makeSound,
  SHEETS,
  SOUNDS,
} from './media';
import { demoFolders, type DemoFolders } from './folders';
import { library, type Picture } from './library';

/** Counts up when the demo's files change; an older library is made anew. */
export const DEMO_VERSION = 2;

const root = join(APPLICATION, 'demo');
const FONT = join(
  root,
  '../node_modules/@fontsource-variable/newsreader/files/newsreader-latin-wght-normal.woff2',
);

interface Task {
  picture: Picture;
  target: string;
}

type Report = () => void;

/** Paints in as many threads as there are cores. */
interface Painters {
  /** A picture of the same scene goes to the thread that has its ground. */
  paint: (tasks: Task[], report: Report) => Promise<void>;
  end: () => Promise<void>;
}

function startPainters(): Painters {
  // A thread begins without the loader that reads TypeScript; a line of JavaScript brings it in.
  const begin = `import('tsx/esm/api').then(({ register }) => { register(); return import(${JSON.stringify(join(root, 'painter.ts'))}); });`;
  const threads = Math.max(1, Math.min(cpus().length, 8));
  const workers = Array.from(
    { length: threads },
    () => new Worker(begin, { eval: true, execArgv: [] }),
  );
  const paintOne = (worker: Worker, task: Task): Promise<void> =>
    new Promise((resolve, reject) => {
      worker.once('error', reject);
      worker.once('message', ({ done, reason }: { done: boolean; reason?: string }) => {
        worker.removeListener('error', reject);
        if (done) resolve();
        else reject(new Error(reason));
      });
      worker.postMessage(task);
    });
  return {
    async paint(tasks, report) {
      const queue = [...tasks].sort((a, b) => (a.picture.scene.key < b.picture.scene.key ? -1 : 1));
      const share = Math.ceil(queue.length / threads);
      await Promise.all(
        workers.map(async (worker, lane) => {
          for (const task of queue.slice(lane * share, (lane + 1) * share)) {
            await paintOne(worker, task);
            report();
          }
        }),
      );
    },
    end: async () => {
      await Promise.all(workers.map((worker) => worker.terminate()));
    },
  };
}

const exifDate = (taken: string): Date =>
  new Date(taken.replace(/^(\d+):(\d+):(\d+) /, '$1-$2-$3T') + 'Z');

/** What the made-up cameras wrote into their files. */
async function stampAll(tasks: Task[]): Promise<void> {
  const tool = new ExifTool({ maxProcs: 2, geolocation: false, useMWG: false });
  try {
    await Promise.all(
      tasks.map(async ({ picture, target }) => {
        const { camera, position } = picture;
        const tags: Record<string, string | number> = {
          'IFD0:Make': camera.make,
          'IFD0:Model': camera.model,
          'ExifIFD:LensModel': camera.lens,
          'ExifIFD:DateTimeOriginal': picture.taken,
          'ExifIFD:CreateDate': picture.taken,
          'ExifIFD:OffsetTimeOriginal': picture.offset,
          'IFD0:Orientation#': 1,
          'ExifIFD:ColorSpace#': 1,
          ...picture.exif,
        };
        if (position)
          Object.assign(tags, {
            'GPS:GPSLatitude': Math.abs(position[0]),
            'GPS:GPSLatitudeRef': position[0] < 0 ? 'S' : 'N',
            'GPS:GPSLongitude': Math.abs(position[1]),
            'GPS:GPSLongitudeRef': position[1] < 0 ? 'W' : 'E',
          });
        await tool.write(target, tags as never, { writeArgs: ['-overwrite_original'] });
        const at = exifDate(picture.taken);
        await utimes(target, at, at);
      }),
    );
  } finally {
    await tool.end();
  }
}

async function eachOf<T>(list: T[], act: (entry: T) => Promise<void>): Promise<void> {
  const queue = [...list];
  const lane = async (): Promise<void> => {
    for (let entry = queue.shift(); entry !== undefined; entry = queue.shift()) await act(entry);
  };
  await Promise.all([lane(), lane()]);
}

type Make = (folders: DemoFolders, work: string, small: boolean) => Promise<void>;

/** What is not a photograph, by top folder. */
const makeMedia: Record<(typeof SHELF)[number], Make> = {
  'Wind Week': async ({ shelf }, work, small) => {
    const clips = small ? CLIPS.slice(0, 2).concat(CLIPS.slice(6, 7)) : CLIPS;
    await eachOf(clips, (clip) =>
      makeClip(clip, join(shelf, 'Wind Week', 'Footage', clip.name), work),
    );
    await eachOf(small ? SOUNDS.slice(3) : SOUNDS, (sound) =>
      makeSound(sound, join(shelf, 'Wind Week', 'Sound', sound.name)),
    );
  },
  Workshop: async () => undefined,
  Brand: async ({ shelf }) => {
    for (const sheet of SHEETS) await makeSheet(sheet, join(shelf, 'Brand', `${sheet}.pdf`));
    await mkdir(join(shelf, 'Brand', 'Fonts'), { recursive: true });
    await copyFile(FONT, join(shelf, 'Brand', 'Fonts', 'Newsreader Latin.woff2'));
  },
  'Sail patterns': async ({ shelf }, _work, small) => {
    for (let number = 0; number < (small ? 3 : 12); number += 1)
      await makePattern(
        number,
        join(shelf, 'Sail patterns', `Sail ${String(number + 1).padStart(2, '0')}.svg`),
      );
  },
  'Festival book': async ({ shelf }, _work, small) => {
    const opening = library(small).shelf.find(({ path }) => path.startsWith('Wind Week/Harbour'))!;
    await makeLayout(join(shelf, 'Festival book', 'Chapter 2'), join(shelf, opening.path), FONT);
  },
};

/** The simulated devices: clips beside the pictures on the card, and some pictures the shelf holds already. */
async function makeDevices(
  { shelf, devices }: DemoFolders,
  work: string,
  small: boolean,
): Promise<void> {
  const described = {
    'card-b': { name: 'Camera card B', kind: 'card' },
    'phone-beach': { name: 'Phone, beach team', kind: 'phone' },
  };
  const card = join(devices, 'card-b', 'files');
  await eachOf(small ? CARD_CLIPS.slice(0, 1) : CARD_CLIPS, (clip) =>
    makeClip(clip, join(card, 'CLIPS', clip.name), work),
  );
  const held = library(small)
    .shelf.filter(({ path, twinOf }) => path.startsWith('Wind Week/Opening') && !twinOf)
    .slice(0, small ? 2 : 9);
  await mkdir(join(card, 'DCIM', '100HERON'), { recursive: true });
  for (const { path } of held)
    await copyFile(join(shelf, path), join(card, 'DCIM', '100HERON', path.split('/').at(-1)!));
  // A device is seen once its description lies there: last.
  for (const [key, device] of Object.entries(described))
    await writeFile(join(devices, key, 'device.json'), `${JSON.stringify(device, null, 2)}\n`);
}

/** Top folders in the order in which they are made; what lies in Brand is copied from Wind Week. */
const SHELF = ['Wind Week', 'Workshop', 'Brand', 'Sail patterns', 'Festival book'] as const;

/**
 * Make the demo's files once, deterministic from their seeds.
 * @param home the data folder
 * @param small a tenth of it, for tests
 * @param ready told of each top folder once it is whole
 */
export async function makeDemoFiles(
  home: string,
  small: boolean,
  say: (line: string) => void,
  ready: (place: 'shelf' | 'travel', folder: string) => Promise<void>,
): Promise<void> {
  const stamp = join(home, 'demo.json');
  const wished = JSON.stringify({ version: DEMO_VERSION, small });
  const isMade = existsSync(stamp) && (await readFile(stamp, 'utf8')) === wished;
  const folders = demoFolders(home);
  const { shelf, travel, card, phone } = library(small);
  const tell = async (): Promise<void> => {
    await ready('travel', '');
    for (const folder of SHELF) await ready('shelf', folder);
  };
  if (isMade) return tell();
  const below = (base: string, pictures: Picture[]): Task[] =>
    pictures.map((picture) => ({ picture, target: join(base, picture.path) }));
  const total = [...shelf, ...travel, ...card, ...phone].filter(({ twinOf }) => !twinOf).length;
  const began = Date.now();
  let done = 0;
  const painters = startPainters();
  const draw = async (tasks: Task[]): Promise<void> => {
    const painted = tasks.filter(({ picture }) => !picture.twinOf);
    await painters.paint(painted, () => {
      done += 1;
      if (done % 20 === 0 || done === total)
        say(
          `Painting the demo library: ${done} of ${total} pictures, ${Math.round((Date.now() - began) / 1000)} s`,
        );
    });
    await stampAll(painted);
    for (const { picture, target } of tasks) {
      if (!picture.twinOf) continue;
      await mkdir(dirname(target), { recursive: true });
      await copyFile(join(folders.shelf, picture.twinOf), target);
    }
  };
  const work = join(home, 'work', 'demo');
  await mkdir(work, { recursive: true });
  try {
    for (const folder of SHELF) {
      await draw(
        below(
          folders.shelf,
          shelf.filter(({ path }) => path.startsWith(`${folder}/`)),
        ),
      );
      await makeMedia[folder](folders, work, small);
      await ready('shelf', folder);
    }
    await draw(below(folders.travel, travel));
    await ready('travel', '');
    await draw([
      ...below(join(folders.devices, 'card-b', 'files'), card),
      ...below(join(folders.devices, 'phone-beach', 'files'), phone),
    ]);
    await makeDevices(folders, work, small);
  } finally {
    await painters.end();
  }
  await rm(work, { recursive: true, force: true });
  await writeFile(stamp, wished);
}
