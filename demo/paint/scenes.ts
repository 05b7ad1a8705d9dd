import type { LightName } from './light';

/** Units things are placed in; a shot sees a part of them. */
export const CANVAS = { width: 2400, height: 1600 } as const;

export type Subject =
  | 'dunes'
  | 'flats'
  | 'harbour'
  | 'sky'
  | 'night'
  | 'festival'
  | 'bench'
  | 'cloth'
  | 'rolls'
  | 'grass'
  | 'pattern'
  | 'sea'
  | 'flyer'
  | 'table'
  | 'reels';

export interface Scene {
  key: string;
  subject: Subject;
  light: LightName;
}

const scene = (subject: Subject, light: LightName, number = 1): Scene => ({
  key: `${subject}-${light}-${number}`,
  subject,
  light,
});

/** Some forty scenes; every picture of the demo is one of them with its own kites, people, crop and light. */
export const SCENES: Scene[] = [
  scene('dunes', 'dusk'),
  scene('dunes', 'golden'),
  scene('dunes', 'breeze'),
  scene('dunes', 'overcast'),
  scene('dunes', 'dawn'),
  scene('flats', 'golden'),
  scene('flats', 'clear'),
  scene('flats', 'dusk'),
  scene('flats', 'dawn'),
  scene('flats', 'overcast'),
  scene('harbour', 'clear'),
  scene('harbour', 'golden'),
  scene('harbour', 'dusk'),
  scene('harbour', 'storm'),
  scene('sky', 'clear'),
  scene('sky', 'breeze'),
  scene('sky', 'golden'),
  scene('sky', 'ember'),
  scene('sky', 'storm'),
  scene('night', 'night'),
  scene('night', 'blue'),
  scene('night', 'blue', 2),
  scene('festival', 'breeze'),
  scene('festival', 'golden'),
  scene('festival', 'ember'),
  scene('festival', 'clear'),
  scene('bench', 'clear'),
  scene('bench', 'golden'),
  scene('table', 'clear'),
  scene('table', 'overcast'),
  scene('cloth', 'clear'),
  scene('cloth', 'golden'),
  scene('cloth', 'clear', 2),
  scene('rolls', 'clear'),
  scene('reels', 'golden'),
  scene('reels', 'clear'),
  scene('grass', 'golden'),
  scene('grass', 'dawn'),
  scene('grass', 'dusk'),
  scene('pattern', 'clear'),
  scene('pattern', 'overcast'),
  scene('sea', 'storm'),
  scene('sea', 'ember'),
  scene('sea', 'breeze'),
  scene('flyer', 'dusk'),
  scene('flyer', 'golden'),
  scene('flyer', 'dawn'),
];
