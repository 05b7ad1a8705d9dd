/** Lights of a day on the coast: what colours sky, cloud, sea and sand take. Colours are linear-ish 0…1. */
export type Colour = readonly [red: number, green: number, blue: number];

export interface Light {
  name: string;
  high: Colour;
  middle: Colour;
  low: Colour;
  /** Sun: position in shares of the width and of the sky's height; null under cloud and at night. */
  sun: { x: number; y: number; colour: Colour; strength: number } | null;
  cloudLit: Colour;
  cloudShade: Colour;
  /** Share of the sky under cloud, 0…1 */
  cover: number;
  /** How far clouds are drawn out sideways. */
  streak: number;
  sand: Colour;
  sandShade: Colour;
  sea: Colour;
  /** Multiplies things painted over the landscape. */
  tint: Colour;
  /** 0…1: how much distance fades into the low sky. */
  haze: number;
}

const hex = (text: string): Colour => {
  const value = parseInt(text, 16);
  return [(value >> 16) / 255, ((value >> 8) & 255) / 255, (value & 255) / 255];
};

const light = (
  name: string,
  colours: [
    high: string,
    middle: string,
    low: string,
    lit: string,
    shade: string,
    sand: string,
    sandShade: string,
    sea: string,
    tint: string,
  ],
  rest: Pick<Light, 'cover' | 'streak' | 'haze'> & {
    sun?: [x: number, y: number, colour: string, strength: number];
  },
): Light => {
  const [high, middle, low, lit, shade, sand, sandShade, sea, tint] = colours.map(
    hex,
  ) as unknown as [Colour, Colour, Colour, Colour, Colour, Colour, Colour, Colour, Colour];
  const sun = rest.sun
    ? { x: rest.sun[0], y: rest.sun[1], colour: hex(rest.sun[2]), strength: rest.sun[3] }
    : null;
  return {
    name,
    high,
    middle,
    low,
    cloudLit: lit,
    cloudShade: shade,
    sand,
    sandShade,
    sea,
    tint,
    cover: rest.cover,
    streak: rest.streak,
    haze: rest.haze,
    sun,
  };
};

export const LIGHTS = {
  dawn: light(
    'dawn',
    ['5f7fa6', 'c9b7bd', 'f6d9b4', 'ffe3cf', '9a93a8', 'd9c0a0', '8f7f78', '8ea3b3', 'f3dccb'],
    {
      cover: 0.5,
      streak: 3.4,
      haze: 0.75,
      sun: [0.24, 0.93, 'fff0cc', 0.9],
    },
  ),
  clear: light(
    'clear',
    ['2f74b5', '74acd6', 'c9e2ec', 'ffffff', 'b7c6d4', 'ecd9b2', 'b99f74', '4f93ab', 'ffffff'],
    {
      cover: 0.34,
      streak: 1.6,
      haze: 0.35,
      sun: [0.8, 0.12, 'ffffff', 0.35],
    },
  ),
  breeze: light(
    'breeze',
    ['4b8fc4', '9cc6de', 'e4eee9', 'ffffff', '9fb2c2', 'e8d4ab', 'a98f68', '5f9fa8', 'ffffff'],
    {
      cover: 0.56,
      streak: 1.2,
      haze: 0.4,
      sun: [0.66, 0.2, 'fffaf0', 0.3],
    },
  ),
  overcast: light(
    'overcast',
    ['8d979f', 'b4bbbf', 'd4d6d3', 'e3e5e4', '8b949b', 'c2b59d', '8c826f', '8b9aa0', 'd9dcdc'],
    {
      cover: 0.86,
      streak: 2.2,
      haze: 0.7,
    },
  ),
  storm: light(
    'storm',
    ['39444f', '5e6b76', '9aa5a8', 'a9b3b6', '2d363f', 'a8987a', '6a604f', '4f6168', 'b9c0c2'],
    {
      cover: 0.92,
      streak: 1.7,
      haze: 0.55,
    },
  ),
  golden: light(
    'golden',
    ['4a78ac', 'b9b6b0', 'ffd48a', 'ffe0a6', 'b98f7d', 'e4b981', '8d6748', '9c9a86', 'ffdcae'],
    {
      cover: 0.46,
      streak: 3,
      haze: 0.6,
      sun: [0.74, 0.86, 'fff2c4', 1.1],
    },
  ),
  dusk: light(
    'dusk',
    ['26427c', '8d7fae', 'ffb98a', 'ffa98f', '6c5a86', 'c48f6f', '6b4f52', '7d7a95', 'f0bda0'],
    {
      cover: 0.52,
      streak: 4.4,
      haze: 0.6,
      sun: [0.68, 0.95, 'ffe2a0', 1],
    },
  ),
  ember: light(
    'ember',
    ['2b2750', '8a3f5c', 'ff8b4a', 'ff7d55', '4d2f4e', '9c6348', '4a3236', '7c4f58', 'e39a78'],
    {
      cover: 0.48,
      streak: 4,
      haze: 0.5,
      sun: [0.4, 0.98, 'ffd58a', 1.1],
    },
  ),
  blue: light(
    'blue',
    ['121f44', '2f4a78', '7d8fb0', '6f7fa4', '1d2c50', '56607a', '2a3350', '3a4f77', '8796bd'],
    {
      cover: 0.4,
      streak: 3.4,
      haze: 0.5,
    },
  ),
  night: light(
    'night',
    ['05081a', '0d1734', '2a3558', '26305a', '070b1d', '232a40', '0f1428', '131c38', '5a668f'],
    {
      cover: 0.3,
      streak: 2.6,
      haze: 0.3,
    },
  ),
} as const satisfies Record<string, Light>;

export type LightName = keyof typeof LIGHTS;
