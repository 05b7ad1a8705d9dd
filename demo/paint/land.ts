import type { Colour, Light } from './light';
import { noise } from './noise';
import { random } from './random';

/** A painted ground: RGB floats 0…1, row by row. */
export interface Ground {
  width: number;
  height: number;
  rgb: Float32Array;
  /** Row of the horizon. */
  horizon: number;
}

const mix = (a: number, b: number, t: number): number => a + (b - a) * t;
const smooth = (low: number, high: number, x: number): number => {
  const t = Math.min(1, Math.max(0, (x - low) / (high - low)));
  return t * t * (3 - 2 * t);
};

function put(ground: Ground, index: number, colour: Colour, amount = 1): void {
  const { rgb } = ground;
  for (let channel = 0; channel < 3; channel += 1)
    rgb[index + channel] = mix(rgb[index + channel]!, colour[channel]!, amount);
}

/** Cloud density over the sky at half size; clouds change slowly. */
function cloudField(width: number, height: number, light: Light, seed: number): Float32Array {
  const field = noise(seed);
  const warp = noise(seed + 7);
  const density = new Float32Array(width * height);
  for (let y = 0; y < height; y += 1) {
    // Clouds lie flatter and denser towards the horizon, as a ceiling seen from below does.
    const depth = 1 / (0.18 + (1 - y / height) * 0.95);
    for (let x = 0; x < width; x += 1) {
      const u = ((x / width - 0.5) * 5 * depth) / light.streak + 40;
      const v = depth * 5.2;
      const bend = (warp.fractal(u * 0.8, v * 0.8, 3) - 0.5) * 1.7;
      density[y * width + x] = field.fractal(u + bend, v + bend * 0.5, 6);
    }
  }
  return density;
}

function bilinear(
  field: Float32Array,
  width: number,
  height: number,
  x: number,
  y: number,
): number {
  const x0 = Math.min(width - 2, Math.max(0, Math.floor(x)));
  const y0 = Math.min(height - 2, Math.max(0, Math.floor(y)));
  const u = Math.min(1, x - x0);
  const v = Math.min(1, y - y0);
  const at = y0 * width + x0;
  return mix(
    mix(field[at]!, field[at + 1]!, u),
    mix(field[at + width]!, field[at + width + 1]!, u),
    v,
  );
}

/** Sky with sun, glow and lit clouds down to the horizon. */
export function paintSky(ground: Ground, light: Light, seed: number): void {
  const { width, horizon } = ground;
  const halfWidth = Math.ceil(width / 2);
  const halfHeight = Math.ceil(horizon / 2);
  const clouds = cloudField(halfWidth, halfHeight, light, seed);
  const { sun } = light;
  const edge = 1 - light.cover;
  // Whatever is not covered later stands in the haze of the horizon.
  for (let at = horizon * width; at < width * ground.height; at += 1)
    put(ground, at * 3, light.low);
  for (let y = 0; y < horizon; y += 1) {
    const t = y / horizon;
    for (let x = 0; x < width; x += 1) {
      const index = (y * width + x) * 3;
      for (let channel = 0; channel < 3; channel += 1) {
        const upper = mix(light.high[channel]!, light.middle[channel]!, smooth(0, 0.7, t));
        ground.rgb[index + channel] = mix(upper, light.low[channel]!, smooth(0.45, 1, t));
      }
      let near = 0;
      if (sun) {
        const dx = x / width - sun.x;
        const dy = ((y - sun.y * horizon) / width) * 1.15;
        const distance = Math.sqrt(dx * dx + dy * dy);
        near = Math.exp(-distance * 5.2);
        put(
          ground,
          index,
          sun.colour,
          Math.min(1, sun.strength * (0.55 * near + 0.9 * Math.exp(-distance * 26))),
        );
        if (distance < 0.012 && sun.strength > 0.5) put(ground, index, [1, 1, 0.97]);
      }
      const density = bilinear(clouds, halfWidth, halfHeight, x / 2, y / 2);
      const below = bilinear(clouds, halfWidth, halfHeight, x / 2, y / 2 + 7);
      const opacity =
        smooth(edge * 0.42 + 0.28, edge * 0.42 + 0.5, density) *
        0.92 *
        (1 - 0.25 * smooth(0.85, 1, t));
      if (opacity <= 0) continue;
      const relief = Math.min(
        1,
        Math.max(0, 0.55 + (density - below) * 7 + near * 0.5 - smooth(0.55, 0.85, density) * 0.45),
      );
      for (let channel = 0; channel < 3; channel += 1) {
        const colour = mix(light.cloudShade[channel]!, light.cloudLit[channel]!, relief);
        ground.rgb[index + channel] = mix(ground.rgb[index + channel]!, colour, opacity);
      }
    }
  }
}

/** Stars between the clouds. */
export function paintStars(ground: Ground, seed: number): void {
  const { int, next } = random(seed);
  for (let count = 0; count < 900; count += 1) {
    const x = int(2, ground.width - 3);
    const y = Math.floor(Math.pow(next(), 1.2) * (ground.horizon - 4)) + 2;
    const glow = 0.25 + 0.75 * Math.pow(next(), 6);
    const index = (y * ground.width + x) * 3;
    for (const [offset, share] of [
      [0, 1],
      [3, 0.4],
      [-3, 0.4],
      [ground.width * 3, 0.4],
      [-ground.width * 3, 0.4],
    ] as const)
      put(ground, index + offset, [0.95, 0.96, 1], glow * share);
  }
}

/** Sea from the horizon down to `bottom`, with swell in perspective and the light's path. */
export function paintSea(
  ground: Ground,
  light: Light,
  bottom: number,
  seed: number,
  swell = 1,
): void {
  const { width, horizon } = ground;
  const waves = noise(seed + 11);
  const foam = noise(seed + 12);
  for (let y = horizon; y < bottom; y += 1) {
    const t = (y - horizon) / Math.max(1, bottom - horizon);
    const depth = 1 / (0.02 + t * 0.5);
    for (let x = 0; x < width; x += 1) {
      const index = (y * width + x) * 3;
      const u = (x / width - 0.5) * depth * 0.9 + 60;
      const v = depth * 3.6;
      const height = waves.fractal(u * 1.4, v * 2.4, 4);
      const crest = smooth(0.52, 0.72, height) * swell;
      let path = 0;
      if (light.sun && light.sun.y > 0.5) {
        const spread = 0.025 + t * 0.13;
        path =
          Math.exp(-Math.pow((x / width - light.sun.x) / spread, 2)) *
          smooth(0.44, 0.62, height) *
          light.sun.strength;
      }
      const fade = (1 - t) * light.haze;
      for (let channel = 0; channel < 3; channel += 1) {
        let value = mix(
          light.sea[channel]! * (0.72 + 0.5 * height),
          light.low[channel]!,
          0.25 * crest,
        );
        value = mix(value, light.low[channel]!, fade * 0.8);
        ground.rgb[index + channel] = mix(
          value,
          light.sun?.colour[channel] ?? 1,
          Math.min(0.9, path * 0.85),
        );
      }
      const white =
        smooth(0.74, 0.82, foam.fractal(u * 2.2, v * 4.6, 4)) * smooth(0.2, 0.8, t) * swell;
      if (white > 0) put(ground, index, light.cloudLit, white * 0.55);
    }
  }
}

/** Flat wet sand that mirrors the sky, ribbed by the tide. */
export function paintFlats(ground: Ground, light: Light, from: number, seed: number): void {
  const { width, height, horizon } = ground;
  const ribs = noise(seed + 21);
  const pools = noise(seed + 22);
  for (let y = from; y < height; y += 1) {
    const t = (y - from) / (height - from);
    const depth = 1 / (0.05 + t * 0.6);
    const mirror = Math.max(0, Math.floor(horizon - (y - horizon) * 0.95));
    for (let x = 0; x < width; x += 1) {
      const index = (y * width + x) * 3;
      const u = (x / width - 0.5) * depth + 30;
      const rib = ribs.fractal(u * 2.2, depth * 9, 4);
      const wet = smooth(0.42, 0.6, pools.fractal(u * 0.9, depth * 1.7, 4)) * 0.8;
      const grain = 0.82 + 0.36 * rib;
      const source =
        (mirror * width + Math.min(width - 1, Math.max(0, Math.floor(x + (rib - 0.5) * 60 * t)))) *
        3;
      for (let channel = 0; channel < 3; channel += 1) {
        const sand =
          mix(light.sandShade[channel]!, light.sand[channel]!, smooth(0.3, 0.7, rib)) * grain;
        const value = mix(sand, ground.rgb[source + channel]! * 0.92, wet);
        ground.rgb[index + channel] = mix(value, light.low[channel]!, (1 - t) * light.haze * 0.45);
      }
    }
  }
}

export interface Ridge {
  /** Height above the horizon's row, in shares of the picture's height, at its highest. */
  base: number;
  rise: number;
  /** Waves across the width. */
  waves: number;
  /** 0 far … 1 near: detail grows, haze fades. */
  near: number;
}

/** One line of dunes; returns the row of its edge for each column. */
export function paintDune(ground: Ground, light: Light, ridge: Ridge, seed: number): Float32Array {
  const { width, height } = ground;
  const shape = noise(seed + 31);
  const texture = noise(seed + 32);
  const rake = noise(seed + 33);
  const edge = new Float32Array(width);
  for (let x = 0; x < width; x += 1) {
    const u = (x / width) * ridge.waves;
    edge[x] =
      height * ridge.base - height * ridge.rise * (shape.fractal(u + 5, 3.3, 3) * 1.5 - 0.35);
  }
  const side = light.sun ? Math.sign(0.5 - light.sun.x) || 1 : 0.4;
  for (let x = 0; x < width; x += 1) {
    const top = Math.max(0, Math.floor(edge[x]!));
    const slope = (edge[Math.min(width - 1, x + 8)]! - edge[Math.max(0, x - 8)]!) / 16;
    for (let y = top; y < height; y += 1) {
      const index = (y * width + x) * 3;
      const t = (y - top) / (height * 0.42);
      const scale = 3 + ridge.near * 5;
      const u = (x / width) * scale;
      const v = (y / height) * scale * (2.4 + t);
      const body = texture.fractal(u * 1.3 + slope, v + t * 2, 5);
      const raked = rake.at(u * 7 + body * 5, (y / height) * scale * 22 - slope * 3 + body * 8);
      let lit = 0.5 + slope * side * 0.55 + (body - 0.5) * 1.25 + (raked - 0.5) * 0.42 * ridge.near;
      lit = smooth(0.05, 0.95, lit - t * 0.16);
      const fade = (1 - ridge.near) * light.haze * 0.75;
      const soft = y === top ? 0.55 : 1;
      for (let channel = 0; channel < 3; channel += 1) {
        const value = mix(light.sandShade[channel]! * 0.82, light.sand[channel]!, lit);
        const hazed = mix(value, light.low[channel]!, fade);
        ground.rgb[index + channel] = mix(ground.rgb[index + channel]!, hazed, soft);
      }
    }
  }
  return edge;
}

/** A board of wood seen from above, planks across. */
export function paintWood(ground: Ground, tone: Colour, seed: number, planks = 7): void {
  const { width, height } = ground;
  const grain = noise(seed + 41);
  const fine = noise(seed + 42);
  for (let y = 0; y < height; y += 1) {
    const plank = Math.floor((y / height) * planks);
    const within = ((y / height) * planks) % 1;
    const seam = smooth(0, 0.018, within) * smooth(0, 0.018, 1 - within);
    for (let x = 0; x < width; x += 1) {
      const u = (x / width) * 3 + plank * 13.7;
      const v = (y / height) * 26 + plank * 5.1;
      const rings = Math.sin((grain.fractal(u, v * 0.4, 4) * 9 + v * 0.8) * 2.2) * 0.5 + 0.5;
      const value =
        0.72 +
        0.26 * rings +
        (fine.at(u * 40, v * 16) - 0.5) * 0.16 +
        (grain.at(plank * 3.3, 1) - 0.5) * 0.2;
      const index = (y * width + x) * 3;
      for (let channel = 0; channel < 3; channel += 1)
        ground.rgb[index + channel] = Math.min(1, tone[channel]! * value * (0.35 + 0.65 * seam));
    }
  }
}

/** Ripstop cloth close up: fine weave with a stronger thread every few, gathered in soft folds. */
export function paintCloth(ground: Ground, colours: Colour[], seed: number, threads = 150): void {
  const { width, height } = ground;
  const folds = noise(seed + 51);
  const angle = 0.35 + (seed % 7) * 0.06;
  const cos = Math.cos(angle);
  const sin = Math.sin(angle);
  for (let y = 0; y < height; y += 1)
    for (let x = 0; x < width; x += 1) {
      const fold = folds.fractal(
        ((x * cos + y * sin) / width) * 5.7,
        ((y * cos - x * sin) / width) * 1.6,
        3,
      );
      const bend = (fold - 0.5) * width * 0.0375;
      const u = (((x + bend) * cos + y * sin) / width) * threads;
      const v = ((y * cos - (x + bend) * sin) / width) * threads;
      const band = Math.floor(v / 26 + 100);
      const colour = colours[((band % colours.length) + colours.length) % colours.length]!;
      const weave =
        (Math.sin(u * Math.PI * 2) * 0.5 + 0.5) * 0.1 +
        (Math.sin(v * Math.PI * 2) * 0.5 + 0.5) * 0.1;
      const ripstop = Math.abs((u / 8) % 1) < 0.14 || Math.abs((v / 8) % 1) < 0.14 ? 0.12 : 0;
      const inBand = Math.abs((v / 26) % 1);
      const seam =
        inBand < 0.1
          ? Math.floor(u / 1.6) % 2 === 0 && inBand > 0.035 && inBand < 0.06
            ? 0.5
            : -0.14
          : 0;
      const light = 0.5 + (fold - 0.42) * 1.75 + weave + ripstop + seam;
      const index = (y * width + x) * 3;
      for (let channel = 0; channel < 3; channel += 1)
        ground.rgb[index + channel] = Math.min(
          1,
          Math.max(0.01, colour[channel]! * light + Math.max(0, light - 1.02) * 0.5),
        );
    }
}

/** Plaster, paper, felt: an even tone with a fine tooth and a fall of light from one corner. */
export function paintPaper(ground: Ground, tone: Colour, seed: number, tooth = 0.05): void {
  const { width, height } = ground;
  const stain = noise(seed + 61);
  const fine = noise(seed + 62);
  for (let y = 0; y < height; y += 1)
    for (let x = 0; x < width; x += 1) {
      const index = (y * width + x) * 3;
      const fall = 1.06 - 0.34 * ((x / width) * 0.55 + (y / height) * 0.45);
      const value =
        fall +
        (stain.fractal((x / width) * 6.3, (y / width) * 6.3, 4) - 0.5) * 0.14 +
        (fine.at(x / 1.7, y / 1.7) - 0.5) * tooth;
      for (let channel = 0; channel < 3; channel += 1)
        ground.rgb[index + channel] = Math.min(1, tone[channel]! * value);
    }
}

/** Out-of-focus lights and leaves behind a near subject. */
export function paintBokeh(ground: Ground, light: Light, seed: number, count: number): void {
  const { between, pick } = random(seed + 71);
  const { width, height } = ground;
  const colours: Colour[] = [light.low, light.cloudLit, light.sand, light.sea];
  for (let blob = 0; blob < count; blob += 1) {
    const radius = between(0.015, 0.05) * width;
    const cx = between(0, width);
    const cy = between(height * 0.15, height * 0.95);
    const colour = pick(colours);
    const strength = between(0.12, 0.4);
    for (let y = Math.max(0, Math.floor(cy - radius)); y < Math.min(height, cy + radius); y += 1)
      for (let x = Math.max(0, Math.floor(cx - radius)); x < Math.min(width, cx + radius); x += 1) {
        const distance = Math.hypot(x - cx, y - cy) / radius;
        if (distance < 1)
          put(
            ground,
            (y * width + x) * 3,
            colour,
            strength * (0.75 + 0.25 * distance) * smooth(1, 0.94, distance),
          );
      }
  }
}

export function newGround(width: number, height: number, horizonShare: number): Ground {
  return {
    width,
    height,
    rgb: new Float32Array(width * height * 3),
    horizon: Math.round(height * horizonShare),
  };
}
