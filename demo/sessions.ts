import type { LightName } from './paint/light';
import type { Subject } from './paint/scenes';

/** Who took what where: the shoots the library is drawn from. */
export interface Camera {
  make: string;
  model: string;
  lens: string;
  focal: [number, number];
  prefix: string;
}

export const CAMERAS = {
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

export const SPOTS: Record<string, [number, number]> = {
  shore: [52.9651, 0.8512],
  harbour: [52.9567, 0.8469],
  workshop: [52.9542, 0.8561],
};

export interface Session {
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

export const SESSIONS: Session[] = [
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

export const TRAVEL: Session[] = [
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

export const CARD: Session[] = [
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

export const PHONE: Session[] = [
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
