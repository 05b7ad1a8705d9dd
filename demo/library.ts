import { random, seedOf, type Random } from './paint/random';
import type { LightName } from './paint/light';
import { SCENES, type Scene, type Subject } from './paint/scenes';
import type { Shot } from './paint/render';

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

interface Camera {
  make: string;
  model: string;
  lens: string;
  focal: [number, number];
  prefix: string;
}

const CAMERAS = {
  heron: {
    make: 'Marlow',
    model: 'Heron 5',
    lens: 'Heron 24-70mm f/2.8',
    focal: [24, 70],
    prefix: 'HRN_',
  },
  tern: {
    make: 'Oskin',
    model: 'Tern X',
    lens: 'Oskin 70-200mm f/4',
    focal: [70, 200],
    prefix: 'TRN',
  },
  /** Its clock runs an hour and three minutes behind. */
  dunlin: {
    make: 'Marlow',
    model: 'Dunlin 2',
    lens: 'Dunlin 35mm f/1.8',
    focal: [35, 35],
    prefix: 'DSL_',
  },
  pebble: {
    make: 'Veldt',
    model: 'Pebble 8',
    lens: 'Pebble back camera',
    focal: [6, 6],
    prefix: 'PBL',
  },
} as const satisfies Record<string, Camera>;

export const PEOPLE = ['Bea Lund', 'Tomas Ekwueme', 'Ines Harrow', 'Odile Marchetti'] as const;

const WORDS: Record<Subject, { titles: string[]; captions: string[]; terms: string[] }> = {
  dunes: {
    titles: ['Over the second dune', 'Line out, dunes below', 'Handler on the ridge', 'First lift'],
    captions: [
      'A handler keeps the line tight while the kite settles above the dunes.',
      'The wind swings to the north and the kite climbs over the marram ridge.',
    ],
    terms: ['Dune under Shore', 'Handler', 'Wind Week'],
  },
  flats: {
    titles: [
      'Low tide on the flats',
      'Mirror sand',
      'Test flights at low water',
      'Three on the flats',
    ],
    captions: [
      'Wet sand doubles the sky during the low-tide test flights.',
      'The beach team trims bridles on the flats before the crowd arrives.',
    ],
    terms: ['Tidal flat under Shore', 'Reflection', 'Wind Week'],
  },
  harbour: {
    titles: ['Beyond the north groyne', 'Harbour flight', 'Boats keep clear', 'Groyne and sails'],
    captions: [
      'Kites fly clear of the boats beyond the north groyne.',
      'Small boats turn home below the harbour flight.',
    ],
    terms: ['Groyne under Shore', 'Boat', 'Harbour'],
  },
  sky: {
    titles: ['Box kite, steady', 'Sail against cloud', 'Pair climbing', 'High and quiet'],
    captions: [
      'The sail fills and the spars hold; nothing else in the sky.',
      'A clean study of the sail for the festival book.',
    ],
    terms: ['Sail under Kite', 'Sky'],
  },
  night: {
    titles: ['Night kites', 'Lamps aloft', 'Lit sails over the bay', 'After the drum'],
    captions: [
      'Sails lit from within hang over the bay at the night flight.',
      'The crowd looks up as the lamps are switched on.',
    ],
    terms: ['Night kite under Kite', 'Crowd', 'Wind Week'],
  },
  festival: {
    titles: ['Opening afternoon', 'Tents and bunting', 'The whole beach', 'Crowd turns'],
    captions: [
      'Wind Week opens: tents, bunting and the first kites of the afternoon.',
      'The crowd turns as the big sails go up behind the tents.',
    ],
    terms: ['Crowd', 'Festival', 'Wind Week'],
  },
  bench: {
    titles: ['Panels on the bench', 'Cut and ready', 'Bench before noon', 'Shears and sailcloth'],
    captions: [
      'Panels of ripstop wait on the bench, seam allowance marked.',
      'Shears, thread and the first cut panels of the new sail.',
    ],
    terms: ['Bench under Workshop', 'Shears under Tool', 'Sailcloth'],
  },
  table: {
    titles: ['Sail on the table', 'Ready for spars', 'One finished sail', 'Final check'],
    captions: [
      'A finished sail lies on the table, spars beside it.',
      'Final check of seams before the sail leaves the workshop.',
    ],
    terms: ['Table under Workshop', 'Sail under Kite', 'Spar'],
  },
  cloth: {
    titles: ['Ripstop, close', 'Seam study', 'Folded sailcloth', 'Thread and cloth'],
    captions: [
      'Ripstop close up: the stronger thread every few millimetres stops a tear.',
      'Double seam in contrasting thread, seen from a hand away.',
    ],
    terms: ['Sailcloth', 'Detail'],
  },
  rolls: {
    titles: ['Cloth store', 'Rolls by colour', 'Shelf three'],
    captions: ['The cloth store, rolls sorted by colour and weight.'],
    terms: ['Sailcloth', 'Store under Workshop'],
  },
  reels: {
    titles: ['Thread, all colours', 'Reels in a row', 'Thread drawer'],
    captions: ['Bonded thread in the season’s colours.'],
    terms: ['Thread', 'Bench under Workshop'],
  },
  grass: {
    titles: ['Marram', 'Through the grass', 'Wind in the marram'],
    captions: [
      'Seen through the marram, kites out of focus behind.',
      'Wind in the marram grass; a background for text.',
    ],
    terms: ['Dune under Shore', 'Grass', 'Background'],
  },
  pattern: {
    titles: ['Pattern sheet', 'Draft of the diamond', 'Drafting the sails'],
    captions: ['Sail patterns drafted at one to four.'],
    terms: ['Pattern', 'Table under Workshop'],
  },
  sea: {
    titles: ['Weather coming', 'One boat out', 'Swell off Saltreach'],
    captions: [
      'A squall line comes in; flights are held for an hour.',
      'Swell off the Saltreach bar in the last light.',
    ],
    terms: ['Sea', 'Boat', 'Weather'],
  },
  flyer: {
    titles: ['At the winder', 'Portrait of a flyer', 'Holding steady', 'One hand on the line'],
    captions: [
      'A flyer holds the line steady in the last light.',
      'One hand on the line, eyes on the sail.',
    ],
    terms: ['Handler', 'Portrait', 'Sail under Kite'],
  },
};

const SPOTS: Record<string, [number, number]> = {
  shore: [52.9651, 0.8512],
  harbour: [52.9567, 0.8469],
  workshop: [52.9542, 0.8561],
};

const pad = (value: number, width = 2): string => String(value).padStart(width, '0');

function clock(date: string, minutes: number, seconds: number): string {
  const at = new Date(`${date}T00:00:00Z`);
  at.setUTCSeconds(Math.round(minutes * 60 + seconds));
  return `${at.getUTCFullYear()}:${pad(at.getUTCMonth() + 1)}:${pad(at.getUTCDate())} ${pad(at.getUTCHours())}:${pad(at.getUTCMinutes())}:${pad(at.getUTCSeconds())}`;
}

interface Session {
  folder: string;
  date: string;
  /** Minutes after midnight of the first frame. */
  from: number;
  subjects: Subject[];
  lights?: LightName[];
  camera: keyof typeof CAMERAS;
  creator: (typeof PEOPLE)[number];
  spot: keyof typeof SPOTS | null;
  count: number;
  bursts?: number;
  described: 'well' | 'no-credit' | 'bare';
  large?: boolean;
}

const SESSIONS: Session[] = [
  {
    folder: 'Workshop/Winter cloth',
    date: '2026-01-21',
    from: 600,
    subjects: ['cloth', 'rolls', 'reels'],
    camera: 'heron',
    creator: 'Ines Harrow',
    spot: 'workshop',
    count: 24,
    described: 'well',
    large: true,
  },
  {
    folder: 'Workshop/Bench',
    date: '2026-03-04',
    from: 560,
    subjects: ['bench', 'table', 'pattern'],
    camera: 'heron',
    creator: 'Ines Harrow',
    spot: 'workshop',
    count: 28,
    described: 'well',
  },
  {
    folder: 'Workshop/Drafting',
    date: '2026-04-16',
    from: 640,
    subjects: ['pattern', 'reels', 'table'],
    camera: 'dunlin',
    creator: 'Odile Marchetti',
    spot: null,
    count: 14,
    described: 'no-credit',
  },
  {
    folder: 'Brand/Backgrounds',
    date: '2026-05-09',
    from: 300,
    subjects: ['grass', 'sea', 'sky'],
    camera: 'tern',
    creator: 'Bea Lund',
    spot: 'shore',
    count: 22,
    described: 'well',
    large: true,
  },
  {
    folder: 'Wind Week/Build days',
    date: '2026-09-10',
    from: 540,
    subjects: ['bench', 'table', 'cloth', 'flats'],
    camera: 'heron',
    creator: 'Ines Harrow',
    spot: 'workshop',
    count: 26,
    described: 'well',
  },
  {
    folder: 'Wind Week/Opening',
    date: '2026-09-11',
    from: 780,
    subjects: ['festival', 'flats', 'sky'],
    lights: ['breeze', 'clear', 'golden'],
    camera: 'heron',
    creator: 'Bea Lund',
    spot: 'shore',
    count: 38,
    bursts: 2,
    described: 'well',
  },
  {
    folder: 'Wind Week/Harbour flights',
    date: '2026-09-12',
    from: 1060,
    subjects: ['harbour', 'dunes', 'flyer', 'sky'],
    lights: ['golden', 'dusk', 'clear', 'ember'],
    camera: 'tern',
    creator: 'Bea Lund',
    spot: 'harbour',
    count: 46,
    bursts: 3,
    described: 'no-credit',
    large: true,
  },
  {
    folder: 'Wind Week/Night kites',
    date: '2026-09-12',
    from: 1290,
    subjects: ['night', 'festival'],
    lights: ['night', 'blue', 'ember'],
    camera: 'dunlin',
    creator: 'Tomas Ekwueme',
    spot: 'shore',
    count: 26,
    described: 'well',
  },
  {
    folder: 'Wind Week/Beach team',
    date: '2026-09-13',
    from: 420,
    subjects: ['flats', 'dunes', 'grass', 'flyer'],
    camera: 'pebble',
    creator: 'Tomas Ekwueme',
    spot: 'shore',
    count: 22,
    bursts: 1,
    described: 'bare',
  },
];

const TRAVEL: Session[] = [
  {
    folder: 'Far beaches',
    date: '2025-07-19',
    from: 500,
    subjects: ['sea', 'dunes', 'flats'],
    lights: ['dawn', 'overcast', 'storm', 'clear'],
    camera: 'tern',
    creator: 'Tomas Ekwueme',
    spot: null,
    count: 8,
    described: 'bare',
  },
];

const CARD: Session[] = [
  {
    folder: 'DCIM/101HERON',
    date: '2026-09-13',
    from: 840,
    subjects: ['festival', 'sky', 'flyer', 'flats'],
    camera: 'heron',
    creator: 'Bea Lund',
    spot: 'shore',
    count: 38,
    bursts: 2,
    described: 'bare',
  },
  {
    folder: 'DCIM/102HERON',
    date: '2026-09-14',
    from: 380,
    subjects: ['dunes', 'harbour', 'grass', 'sea'],
    camera: 'heron',
    creator: 'Bea Lund',
    spot: 'shore',
    count: 22,
    bursts: 1,
    described: 'bare',
  },
];

const PHONE: Session[] = [
  {
    folder: 'Camera',
    date: '2026-09-12',
    from: 900,
    subjects: ['festival', 'flats', 'dunes'],
    lights: ['clear', 'breeze', 'golden'],
    camera: 'pebble',
    creator: 'Tomas Ekwueme',
    spot: 'shore',
    count: 10,
    described: 'bare',
  },
];

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
