import sharp from 'sharp';
import { LIGHTS } from './light';
import { random } from './random';
import { CANVAS, MASTER, paintGround, paintThings, type Moment, type Scene } from './scenes';

/** How one picture is taken of a scene. */
export interface Shot extends Moment {
  /** Crop in shares of the master: centre and width. */
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

const grounds = new Map<string, Promise<Buffer>>();
const KEPT = 3;

function groundOf(scene: Scene): Promise<Buffer> {
  const known = grounds.get(scene.key);
  if (known) return known;
  const { rgb, width, height } = paintGround(scene);
  const bytes = Buffer.allocUnsafe(rgb.length);
  for (let at = 0; at < rgb.length; at += 1) bytes[at] = Math.min(255, Math.max(0, rgb[at]! * 255));
  const made = sharp(bytes, { raw: { width, height, channels: 3 } })
    .resize(MASTER.width, MASTER.height, { kernel: 'cubic' })
    .raw()
    .toBuffer();
  grounds.set(scene.key, made);
  for (const key of [...grounds.keys()].slice(0, -KEPT)) grounds.delete(key);
  return made;
}

/** Ground and things together, at master size. */
async function compose(scene: Scene, moment: Moment): Promise<Buffer> {
  const raw = { width: MASTER.width, height: MASTER.height, channels: 3 as const };
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="${MASTER.width}" height="${MASTER.height}" viewBox="0 0 ${CANVAS.width} ${CANVAS.height}">${paintThings(scene, moment)}</svg>`;
  const tint = LIGHTS[scene.light].tint;
  const indoors = ['bench', 'table', 'cloth', 'rolls', 'reels', 'pattern'].includes(scene.subject);
  const things = await sharp(Buffer.from(svg)).ensureAlpha().raw().toBuffer();
  // Things stand in the same light as the ground they are on.
  if (!indoors && scene.subject !== 'night')
    for (let at = 0; at < things.length; at += 4)
      if (things[at + 3]! > 0)
        for (let channel = 0; channel < 3; channel += 1)
          things[at + channel] = things[at + channel]! * (0.25 + 0.75 * tint[channel]!);
  return sharp(await groundOf(scene), { raw })
    .composite([
      {
        input: things,
        raw: { width: MASTER.width, height: MASTER.height, channels: 4 },
        premultiplied: false,
      },
    ])
    .removeAlpha()
    .raw()
    .toBuffer();
}

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
      const away = dx * dx + dy * dy;
      const edge = 1 - 0.62 * away * Math.sqrt(Math.sqrt(away));
      const index = (y * width + x) * 3;
      slip = (slip + 1) & 65_535;
      const noise = grain[slip]!;
      for (let channel = 0; channel < 3; channel += 1) {
        const factor = channel === 0 ? red : channel === 2 ? blue : gain;
        const value = pixels[index + channel]! * factor * edge;
        pixels[index + channel] =
          (value > 219 ? value / (1 + (value - 219) * 0.00275) : value) + noise;
      }
    }
  }
}

/** One finished JPEG, without metadata. */
export async function takePicture(scene: Scene, shot: Shot): Promise<Buffer> {
  const master = await compose(scene, shot);
  const aspect = shot.width / shot.height;
  let width = Math.min(1, shot.crop.width) * MASTER.width;
  let height = width / aspect;
  if (height > MASTER.height) {
    height = MASTER.height;
    width = height * aspect;
  }
  const left = Math.round(
    Math.min(MASTER.width - width, Math.max(0, shot.crop.x * MASTER.width - width / 2)),
  );
  const top = Math.round(
    Math.min(MASTER.height - height, Math.max(0, shot.crop.y * MASTER.height - height / 2)),
  );
  let image = sharp(master, { raw: { width: MASTER.width, height: MASTER.height, channels: 3 } })
    .extract({ left, top, width: Math.floor(width), height: Math.floor(height) })
    .resize(shot.width, shot.height, { kernel: 'cubic' });
  image = shot.blur > 0.3 ? image.blur(shot.blur) : image.sharpen();
  const pixels = await image.raw().toBuffer();
  develop(pixels, shot);
  return sharp(pixels, { raw: { width: shot.width, height: shot.height, channels: 3 } })
    .jpeg({ quality: shot.quality ?? 84, mozjpeg: false })
    .toBuffer();
}
