import sharp from 'sharp';
import { LIGHTS, type Colour } from './light';
import { random } from './random';
import type { Ground } from './land';
import { paintGround } from './grounds';
import { paintThings, type Moment } from './placed';
import { CANVAS, type Scene } from './scenes';

/** How one picture is taken of a scene. */
export interface Shot extends Moment {
  /** Crop in shares of the canvas: centre and width. */
  crop: { x: number; y: number; width: number };
  /** Output size, px. */
  width: number;
  height: number;
  /** Stops of exposure, warm (+) or cold (−) shift −1…1, standard deviation of grain 0…255. */
  exposure: number;
  warmth: number;
  grain: number;
  /** px of blur at output size: missed focus or moved camera */
  blur: number;
  quality?: number;
}

const grounds = new Map<string, Ground>();
const KEPT = 3;

function groundOf(scene: Scene): Ground {
  const known = grounds.get(scene.key);
  if (known) return known;
  const made = paintGround(scene);
  grounds.set(scene.key, made);
  for (const key of [...grounds.keys()].slice(0, -KEPT)) grounds.delete(key);
  return made;
}

/** The part of the canvas a shot sees, in canvas units. */
function windowOf({ crop, width: across, height: down }: Shot) {
  let width = Math.min(1, crop.width) * CANVAS.width;
  let height = (width * down) / across;
  if (height > CANVAS.height) {
    height = CANVAS.height;
    width = (height * across) / down;
  }
  const within = (centre: number, size: number, whole: number): number =>
    Math.min(whole - size, Math.max(0, centre * whole - size / 2));
  return {
    left: within(crop.x, width, CANVAS.width),
    top: within(crop.y, height, CANVAS.height),
    width,
    height,
  };
}

const INDOORS = new Set(['bench', 'table', 'cloth', 'rolls', 'reels', 'pattern']);

/** For each output pixel along one edge the ground's sample before it, and the share of the next. */
function samples(count: number, from: number, length: number, whole: number, most: number) {
  const first = new Uint16Array(count);
  const share = new Float32Array(count);
  for (let at = 0; at < count; at += 1) {
    const wished = ((from + ((at + 0.5) * length) / count) / whole) * most - 0.5;
    const held = Math.min(most - 1.001, Math.max(0, wished));
    first[at] = Math.floor(held);
    share[at] = held - Math.floor(held);
  }
  return { first, share };
}

/** Ground and things together, in one pass at the size of the picture. @returns RGB, 0…255 */
async function compose(scene: Scene, shot: Shot): Promise<Buffer> {
  const { width, height } = shot;
  const seen = windowOf(shot);
  const box = `${seen.left} ${seen.top} ${seen.width} ${seen.height}`;
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" viewBox="${box}" preserveAspectRatio="none">${paintThings(scene, shot)}</svg>`;
  const things = await sharp(Buffer.from(svg)).ensureAlpha().raw().toBuffer();
  // Things stand in the same light as the ground they are on.
  const isLit = !INDOORS.has(scene.subject) && scene.subject !== 'night';
  const [lightRed, lightGreen, lightBlue] = LIGHTS[scene.light].tint.map((tint) =>
    isLit ? 0.25 + 0.75 * tint : 1,
  ) as unknown as Colour;
  const { rgb, width: across, height: down } = groundOf(scene);
  const columns = samples(width, seen.left, seen.width, CANVAS.width, across);
  const rows = samples(height, seen.top, seen.height, CANVAS.height, down);
  const bytes = Buffer.allocUnsafe(width * height * 3);
  const pixels = new Uint8ClampedArray(bytes.buffer, bytes.byteOffset, bytes.length);
  const line = new Float32Array(across * 3);
  for (let y = 0; y < height; y += 1) {
    const above = rows.first[y]! * across * 3;
    const v = rows.share[y]!;
    for (let at = 0; at < line.length; at += 1) {
      const top = rgb[above + at]!;
      line[at] = (top + (rgb[above + line.length + at]! - top) * v) * 255;
    }
    for (let x = 0; x < width; x += 1) {
      const thing = (y * width + x) * 4;
      const index = (y * width + x) * 3;
      const u = columns.share[x]!;
      const sample = columns.first[x]! * 3;
      let red = line[sample]! + (line[sample + 3]! - line[sample]!) * u;
      let green = line[sample + 1]! + (line[sample + 4]! - line[sample + 1]!) * u;
      let blue = line[sample + 2]! + (line[sample + 5]! - line[sample + 2]!) * u;
      const opaque = things[thing + 3]! / 255;
      if (opaque > 0) {
        red += (things[thing]! * lightRed - red) * opaque;
        green += (things[thing + 1]! * lightGreen - green) * opaque;
        blue += (things[thing + 2]! * lightBlue - blue) * opaque;
      }
      pixels[index] = red;
      pixels[index + 1] = green;
      pixels[index + 2] = blue;
    }
  }
  return bytes;
}

/** How dark the corners are, by the squared distance from the middle, 0…½. */
const VIGNETTE_STEPS = 4096;
const VIGNETTE = Float32Array.from({ length: VIGNETTE_STEPS + 1 }, (_, step) => {
  const away = step / VIGNETTE_STEPS / 2;
  return 1 - 0.62 * away * Math.sqrt(Math.sqrt(away));
});

/** Highlights bend before they burn out. */
const shouldered = (value: number): number =>
  value > 219 ? value / (1 + (value - 219) * 0.00275) : value;

/** Develop: exposure, warmth, vignette, a gentle shoulder, and grain that no two frames share. */
function develop(bytes: Buffer, shot: Shot): void {
  const pixels = new Uint8ClampedArray(bytes.buffer, bytes.byteOffset, bytes.length);
  const { width, height } = shot;
  const gain = Math.pow(2, shot.exposure);
  const red = gain * (1 + shot.warmth * 0.07);
  const blue = gain * (1 - shot.warmth * 0.07);
  const { next } = random(shot.seed * 31 + Math.round(shot.t * 100));
  const grain = Float32Array.from(
    { length: 65_536 },
    () => (next() + next() + next() - 1.5) * 1.4 * shot.grain,
  );
  for (let y = 0; y < height; y += 1) {
    let slip = Math.floor(next() * 65_536);
    const dy = y / height - 0.5;
    for (let x = 0; x < width; x += 1) {
      const dx = x / width - 0.5;
      const edge = VIGNETTE[((dx * dx + dy * dy) * 2 * VIGNETTE_STEPS) | 0]!;
      const index = (y * width + x) * 3;
      slip = (slip + 1) & 65_535;
      const noise = grain[slip]!;
      pixels[index] = shouldered(pixels[index]! * red * edge) + noise;
      pixels[index + 1] = shouldered(pixels[index + 1]! * gain * edge) + noise;
      pixels[index + 2] = shouldered(pixels[index + 2]! * blue * edge) + noise;
    }
  }
}

/** One finished JPEG, without metadata. */
export async function takePicture(scene: Scene, shot: Shot): Promise<Buffer> {
  const raw = { width: shot.width, height: shot.height, channels: 3 as const };
  const clear = await compose(scene, shot);
  const pixels =
    shot.blur > 0.3 ? await sharp(clear, { raw }).blur(shot.blur).raw().toBuffer() : clear;
  develop(pixels, shot);
  return sharp(pixels, { raw })
    .jpeg({ quality: shot.quality ?? 84, mozjpeg: false })
    .toBuffer();
}
