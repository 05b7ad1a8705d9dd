import { random, seedOf, type Random } from './paint/random';
import { SCENES, type Scene, type Subject } from './paint/scenes';
import type { Shot } from './paint/render';
import {
  CAMERAS,
  CARD,
  PHONE,
  SESSIONS,
  SPOTS,
  TRAVEL,
  type Camera,
  type Session,
} from './sessions';
import { WORDS } from './words';

/**
 * What Saltreach Kites owns: a year of pictures up to Wind Week, with the mess that real archives have.
 * All people, makers and places are invented; positions lie on a real coast.
 */
export interface Picture {
  /** Path below the library's folder. */
  path: string;
  scene: Scene;
  shot: Shot;
  camera: Camera;
  creator: string;
  /** Camera clock, `2026:09:12 19:42:07` */
  taken: string;
  offset: string;
  /** degrees */
  position: [latitude: number, longitude: number] | null;
  exif: Record<string, string | number>;
  described: Described | null;
  /** Same bytes as another path: an exact duplicate. */
  twinOf?: string;
}

export interface Described {
  title: string;
  caption: string;
  terms: string[];
  rating: number;
  stage: string;
  credit: string;
  copyright: string;
}

const pad = (value: number, width = 2): string => String(value).padStart(width, '0');

function clock(date: string, minutes: number, seconds: number): string {
  const at = new Date(`${date}T00:00:00Z`);
  at.setUTCSeconds(Math.round(minutes * 60 + seconds));
  return `${at.getUTCFullYear()}:${pad(at.getUTCMonth() + 1)}:${pad(at.getUTCDate())} ${pad(at.getUTCHours())}:${pad(at.getUTCMinutes())}:${pad(at.getUTCSeconds())}`;
}

const HOUSE_NOTICE = '© 2026 Saltreach Kites';

function describe(session: Session, subject: Subject, r: Random): Described | null {
  if (session.described === 'bare') return null;
  const words = WORDS[subject];
  const rating = r.pick([0, 0, 1, 2, 2, 3, 3, 3, 4, 4, 5, -1]);
  return {
    title: r.pick(words.titles),
    caption: r.pick(words.captions),
    terms: words.terms,
    rating,
    stage:
      rating >= 4
        ? r.pick(['Shortlist', 'For print', 'With retoucher', 'Published'])
        : r.pick(['', '', 'To look over', 'With retoucher']),
    credit:
      session.described === 'no-credit' && r.next() < 0.7
        ? ''
        : `${session.creator} / Saltreach Kites`,
    copyright: HOUSE_NOTICE,
  };
}

function exifOf(camera: Camera, scene: Scene, r: Random): Record<string, string | number> {
  const dark = scene.light === 'night' || scene.light === 'blue';
  return {
    'ExifIFD:FNumber': r.pick([2.8, 4, 5.6, 8]),
    'ExifIFD:ExposureTime': dark ? r.pick([0.5, 0.25, 0.1]) : r.pick([0.002, 0.001, 0.004, 0.0005]),
    'ExifIFD:ISO': dark ? r.pick([1600, 3200]) : r.pick([100, 200, 400]),
    'ExifIFD:FocalLength': r.int(camera.focal[0], camera.focal[1]),
  };
}

/** Sizes in px: three megapixels for most, twelve and more for some. */
/** px. Drawn small enough that the whole library is there in minutes; a few large ones are for close looking. */
function sizeOf(session: Session, index: number, r: Random): [number, number] {
  if (session.camera === 'pebble') return r.next() < 0.35 ? [1080, 1440] : [1440, 1080];
  if (session.large && index % 12 === 0) return [3600, 2400];
  if (session.folder.startsWith('Wind Week/Harbour') && index % 9 === 4) return [2000, 800];
  return r.next() < 0.16 ? [1000, 1500] : [1500, 1000];
}

function session(base: Session, numberFrom: number): Picture[] {
  const r = random(seedOf(base.folder + base.date));
  const camera = CAMERAS[base.camera];
  const scenes = SCENES.filter(
    (scene) =>
      base.subjects.includes(scene.subject) &&
      (!base.lights ||
        base.lights.includes(scene.light) ||
        ['bench', 'table'].includes(scene.subject)),
  );
  const pictures: Picture[] = [];
  let minutes = base.from;
  let bursts = base.bursts ?? 0;
  for (let index = 0; pictures.length < base.count; index += 1) {
    // Frames of one scene follow each other, as they do on a walk.
    const scene = scenes[Math.floor((index / base.count) * scenes.length * 1.4) % scenes.length]!;
    const burst = bursts > 0 && index % 7 === 3 ? 6 : 1;
    if (burst > 1) bursts -= 1;
    const [width, height] = sizeOf(base, pictures.length, r);
    const seed = r.int(1, 1_000_000);
    const crop = { x: r.between(0.4, 0.6), y: r.between(0.44, 0.56), width: r.between(0.78, 1) };
    const exposure = r.normal() * 0.13;
    const warmth = r.normal() * 0.4;
    const exif = exifOf(camera, scene, r);
    minutes += r.between(1, 6);
    const sharp = r.int(0, burst - 1);
    const described = describe(base, scene.subject, r);
    for (let frame = 0; frame < burst && pictures.length < base.count; frame += 1) {
      const number = numberFrom + pictures.length;
      const soft =
        burst > 1
          ? frame === sharp
            ? 0
            : 1.6 + Math.abs(frame - sharp) * 0.9
          : r.next() < 0.05
            ? 3.2
            : 0;
      const wrong = base.camera === 'dunlin' ? -63 : 0;
      pictures.push({
        path: `${base.folder}/${camera.prefix}${pad(number, 4)}.JPG`,
        scene,
        shot: {
          seed,
          t: frame * 0.3,
          crop,
          width,
          height,
          exposure,
          warmth,
          grain: r.between(3.2, 6.5),
          blur: soft * (width / 2160),
        },
        camera,
        creator: base.creator,
        taken: clock(base.date, minutes + wrong, frame * 0.3),
        offset: base.date.slice(5, 7) < '04' ? '+00:00' : '+01:00',
        position: base.spot
          ? [SPOTS[base.spot]![0] + r.normal() * 0.0016, SPOTS[base.spot]![1] + r.normal() * 0.0024]
          : null,
        exif: { ...exif, 'ExifIFD:SubSecTimeOriginal': pad((frame * 30) % 100, 2) },
        described,
      });
    }
  }
  return pictures;
}

function all(sessions: Session[], from: number): Picture[] {
  let number = from;
  return sessions.flatMap((entry) => {
    const pictures = session(entry, number);
    number += pictures.length + 11;
    return pictures;
  });
}

/** Copies somebody put on a shelf of their own: same bytes, and the same picture saved again smaller. */
function copies(pictures: Picture[]): Picture[] {
  const source = pictures.filter((picture) => picture.path.startsWith('Wind Week/Opening'));
  const twins = source.slice(0, 5).map((picture) => ({
    ...picture,
    path: picture.path.replace('Wind Week/Opening/', 'Brand/Press picks/'),
    twinOf: picture.path,
  }));
  const alike = source.slice(6, 11).map((picture) => ({
    ...picture,
    path: picture.path.replace('Wind Week/Opening/', 'Brand/Press picks/web '),
    shot: {
      ...picture.shot,
      width: Math.round(picture.shot.width / 1.5),
      height: Math.round(picture.shot.height / 1.5),
      quality: 70,
    },
  }));
  return [...twins, ...alike];
}

export interface Library {
  shelf: Picture[];
  travel: Picture[];
  card: Picture[];
  phone: Picture[];
}

/** A small library is drawn at half size: its pictures are for tests, not for looking. */
const halved = (picture: Picture): Picture => ({
  ...picture,
  shot: {
    ...picture.shot,
    width: Math.round(picture.shot.width / 2),
    height: Math.round(picture.shot.height / 2),
  },
});

/** The whole library, or a small one for tests: the first few of each session. */
export function library(small = false): Library {
  const some = (sessions: Session[], count: number, from: number): Picture[] => {
    if (!small) return all(sessions, from);
    return all(
      sessions.map((entry) => ({ ...entry, count: Math.min(entry.count, count), large: false })),
      from,
    ).map(halved);
  };
  const shelf = some(SESSIONS, 3, 1200);
  return {
    shelf: [...shelf, ...copies(shelf)],
    travel: some(TRAVEL, 2, 310),
    card: some(CARD, 4, 4417),
    phone: some(PHONE, 2, 88),
  };
}
