import { LIGHTS, type Colour, type LightName } from './light';
import {
  newGround,
  paintBokeh,
  paintCloth,
  paintDune,
  paintFlats,
  paintPaper,
  paintSea,
  paintSky,
  paintStars,
  paintWood,
  type Ground,
} from './land';
import { seedOf } from './random';
import type { Scene } from './scenes';
import { SAILS } from './things';

/** Grounds are painted smaller and enlarged: light, cloud and sand are soft, and grain comes at the end. */
const GROUND = { width: 1110, height: 740 } as const;

const hex = (text: string): Colour => {
  const value = parseInt(text.slice(1), 16);
  return [(value >> 16) / 255, ((value >> 8) & 255) / 255, (value & 255) / 255];
};

/** The ground of a scene: sky, land, table, cloth. */
export function paintGround({ key, subject, light: lightName }: Scene): Ground {
  const seed = seedOf(key);
  const light = LIGHTS[lightName];
  const sky = (share: number): Ground => {
    const ground = newGround(GROUND.width, GROUND.height, share);
    paintSky(ground, light, seed);
    return ground;
  };
  switch (subject) {
    case 'dunes': {
      const ground = sky(0.6);
      paintSea(ground, light, Math.round(GROUND.height * 0.76), seed, 0.5);
      paintDune(ground, light, { base: 0.68, rise: 0.07, waves: 2.4, near: 0.35 }, seed);
      paintDune(ground, light, { base: 0.79, rise: 0.12, waves: 1.6, near: 0.7 }, seed + 1);
      paintDune(ground, light, { base: 0.93, rise: 0.1, waves: 1.2, near: 1 }, seed + 2);
      return ground;
    }
    case 'flats': {
      const ground = sky(0.56);
      paintSea(ground, light, Math.round(GROUND.height * 0.64), seed, 0.6);
      paintFlats(ground, light, Math.round(GROUND.height * 0.63), seed);
      return ground;
    }
    case 'harbour': {
      const ground = sky(0.55);
      paintSea(ground, light, GROUND.height, seed, lightName === 'storm' ? 1.5 : 0.5);
      return ground;
    }
    case 'sea': {
      const ground = sky(0.42);
      paintSea(ground, light, GROUND.height, seed, 1.6);
      return ground;
    }
    case 'sky':
    case 'flyer':
      return subject === 'sky' ? sky(1) : withDune(sky(0.82), light, seed);
    case 'night': {
      const ground = sky(0.8);
      paintStars(ground, seed);
      paintSea(ground, light, Math.round(GROUND.height * 0.87), seed, 0.4);
      paintDune(ground, light, { base: 0.9, rise: 0.07, waves: 1.6, near: 1 }, seed);
      return ground;
    }
    case 'festival': {
      const ground = sky(0.62);
      paintDune(ground, light, { base: 0.66, rise: 0.05, waves: 2, near: 0.5 }, seed);
      paintDune(ground, light, { base: 0.8, rise: 0.02, waves: 1, near: 1 }, seed + 1);
      return ground;
    }
    case 'grass': {
      const ground = sky(0.74);
      paintDune(ground, light, { base: 0.8, rise: 0.1, waves: 1.5, near: 0.2 }, seed);
      paintBokeh(ground, light, seed, 60);
      return ground;
    }
    case 'bench':
    case 'reels':
    case 'table': {
      const ground = newGround(GROUND.width, GROUND.height, 1);
      const tones: Record<string, string> = {
        bench: '#a9794f',
        reels: '#6b5140',
        table: '#d6cdbb',
      };
      if (subject === 'table')
        paintPaper(ground, hex(lightName === 'overcast' ? '#b9bdb8' : '#e4dccb'), seed, 0.07);
      else paintWood(ground, hex(tones[subject]!), seed, subject === 'reels' ? 5 : 7);
      return ground;
    }
    case 'rolls':
      return papered('#cfc7b8', seed);
    case 'pattern':
      return papered(lightName === 'clear' ? '#efe7d2' : '#2e4d63', seed);
    case 'cloth': {
      const ground = newGround(GROUND.width, GROUND.height, 1);
      const sail = SAILS[seed % SAILS.length]!;
      paintCloth(ground, sail.slice(0, 4).map(hex), seed, 120 + (seed % 60));
      return ground;
    }
  }
}

function papered(tone: string, seed: number): Ground {
  const ground = newGround(GROUND.width, GROUND.height, 1);
  paintPaper(ground, hex(tone), seed);
  return ground;
}

function withDune(ground: Ground, light: (typeof LIGHTS)[LightName], seed: number): Ground {
  paintSea(ground, light, Math.round(GROUND.height * 0.9), seed, 0.5);
  paintDune(ground, light, { base: 0.93, rise: 0.08, waves: 1.3, near: 1 }, seed);
  return ground;
}
