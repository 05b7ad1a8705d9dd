import { existsSync } from 'node:fs';
import { copyFile, mkdir, readFile, rm, utimes, writeFile, readdir } from 'node:fs/promises';
import { cpus } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { Worker } from 'node:worker_threads';
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
import { library, type Picture } from './library';

/** Counts up when the demo's files change; an older library is made anew. */
export const DEMO_VERSION = 1;

const root = dirname(fileURLToPath(import.meta.url));
const FONT = join(
  root,
  '../node_modules/@fontsource-variable/newsreader/files/newsreader-latin-wght-normal.woff2',
);

interface Task {
  picture: Picture;
  target: string;
}

type Report = (done: number, total: number) => void;

/** Paint in as many threads as there are cores; a picture of the same scene goes to the thread that has its ground. */
async function paintAll(tasks: Task[], report: Report): Promise<void> {
  const queue = [...tasks].sort((a, b) => (a.picture.scene.key < b.picture.scene.key ? -1 : 1));
  const threads = Math.max(1, Math.min(cpus().length, 8));
  let done = 0;
  const share = Math.ceil(queue.length / threads);
  const lanes = Array.from({ length: threads }, (_, lane) =>
    queue.slice(lane * share, (lane + 1) * share),
  );
  await Promise.all(
    lanes.map(
      (lane) =>
        new Promise<void>((resolve, reject) => {
          // A thread begins without the loader that reads TypeScript; a line of JavaScript brings it in.
          const begin = `import('tsx/esm/api').then(({ register }) => { register(); return import(${JSON.stringify(join(root, 'painter.ts'))}); });`;
          const worker = new Worker(begin, { eval: true, execArgv: [] });
          const next = (): void => {
            const task = lane.shift();
            if (task) worker.postMessage(task);
            else void worker.terminate().then(() => resolve());
          };
          worker.on('message', (message: { done: boolean; reason?: string }) => {
            if (!message.done) return reject(new Error(message.reason));
            done += 1;
            report(done, tasks.length);
            next();
          });
          worker.on('error', reject);
          next();
        }),
    ),
  );
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

export interface DemoFolders {
  shelf: string;
  travel: string;
  devices: string;
}

export const demoFolders = (home: string): DemoFolders => ({
  shelf: join(home, 'holdings', 'Studio shelf'),
  travel: join(home, 'holdings', 'Travel drive'),
  devices: join(home, 'devices'),
});

async function makeMedia(folders: DemoFolders, work: string, small: boolean): Promise<void> {
  const { shelf, devices } = folders;
  const clips = small ? CLIPS.slice(0, 2).concat(CLIPS.slice(6, 7)) : CLIPS;
  await eachOf(clips, (clip) =>
    makeClip(clip, join(shelf, 'Wind Week', 'Footage', clip.name), work),
  );
  await eachOf(small ? CARD_CLIPS.slice(0, 1) : CARD_CLIPS, (clip) =>
    makeClip(clip, join(devices, 'card-b', 'files', 'CLIPS', clip.name), work),
  );
  await eachOf(small ? SOUNDS.slice(3) : SOUNDS, (sound) =>
    makeSound(sound, join(shelf, 'Wind Week', 'Sound', sound.name)),
  );
  for (let number = 0; number < (small ? 3 : 12); number += 1)
    await makePattern(
      number,
      join(shelf, 'Sail patterns', `Sail ${String(number + 1).padStart(2, '0')}.svg`),
    );
  for (const sheet of SHEETS) await makeSheet(sheet, join(shelf, 'Brand', `${sheet}.pdf`));
  await mkdir(join(shelf, 'Brand', 'Fonts'), { recursive: true });
  await copyFile(FONT, join(shelf, 'Brand', 'Fonts', 'Newsreader Latin.woff2'));
}

async function makeDevices(folders: DemoFolders): Promise<void> {
  const devices = {
    'card-b': { name: 'Camera card B', kind: 'card' },
    'phone-beach': { name: 'Phone, beach team', kind: 'phone' },
  };
  for (const [key, device] of Object.entries(devices)) {
    await mkdir(join(folders.devices, key, 'files'), { recursive: true });
    await writeFile(
      join(folders.devices, key, 'device.json'),
      `${JSON.stringify(device, null, 2)}\n`,
    );
  }
}

/**
 * Make the demo's files once, deterministic from their seeds.
 * @param home the data folder
 * @param small a tenth of it, for tests
 */
export async function makeDemoFiles(
  home: string,
  small: boolean,
  say: (line: string) => void,
): Promise<void> {
  const stamp = join(home, 'demo.json');
  const wished = JSON.stringify({ version: DEMO_VERSION, small });
  if (existsSync(stamp) && (await readFile(stamp, 'utf8')) === wished) return;
  const folders = demoFolders(home);
  const { shelf, travel, card, phone } = library(small);
  const task =
    (base: string) =>
    (picture: Picture): Task => ({ picture, target: join(base, picture.path) });
  const tasks = [
    ...shelf.map(task(folders.shelf)),
    ...travel.map(task(folders.travel)),
    ...card.map(task(join(folders.devices, 'card-b', 'files'))),
    ...phone.map(task(join(folders.devices, 'phone-beach', 'files'))),
  ];
  const painted = tasks.filter(({ picture }) => !picture.twinOf);
  const began = Date.now();
  await paintAll(painted, (done, total) => {
    if (done % 10 === 0 || done === total)
      say(
        `Painting the demo library: ${done} of ${total} pictures, ${Math.round((Date.now() - began) / 1000)} s`,
      );
  });
  say('Writing what the cameras say …');
  await stampAll(painted);
  for (const { picture, target } of tasks) {
    if (!picture.twinOf) continue;
    await mkdir(dirname(target), { recursive: true });
    await copyFile(join(folders.shelf, picture.twinOf), target);
  }
  say('Making clips, sounds, patterns and sheets …');
  const work = join(home, 'work', 'demo');
  await mkdir(work, { recursive: true });
  await makeMedia(folders, work, small);
  await makeDevices(folders);
  const held = shelf
    .filter(({ path, twinOf }) => path.startsWith('Wind Week/Opening') && !twinOf)
    .slice(0, small ? 2 : 9);
  await mkdir(join(folders.devices, 'card-b', 'files', 'DCIM', '100HERON'), { recursive: true });
  for (const { path } of held)
    await copyFile(
      join(folders.shelf, path),
      join(folders.devices, 'card-b', 'files', 'DCIM', '100HERON', path.split('/').at(-1)!),
    );
  const opening = shelf.find(({ path }) => path.startsWith('Wind Week/Harbour'))!;
  await makeLayout(
    join(folders.shelf, 'Festival book', 'Chapter 2'),
    join(folders.shelf, opening.path),
    FONT,
  );
  await rm(work, { recursive: true, force: true });
  await writeFile(stamp, wished);
}

/** Some pictures of the library, for the simulated site. */
export async function demoPictures(home: string): Promise<string[]> {
  const folder = join(demoFolders(home).shelf, 'Wind Week');
  const names = await readdir(folder, { recursive: true });
  return names
    .filter((name) => name.endsWith('.jpg') || name.endsWith('.JPG'))
    .sort()
    .filter((_, at, all) => at % Math.max(1, Math.floor(all.length / 8)) === 0)
    .map((name) => join(folder, name));
}
