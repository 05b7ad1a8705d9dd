import { rename } from 'node:fs/promises';
import sharp, { type ResizeOptions, type Sharp, type SharpOptions } from 'sharp';
import { isWideGamut } from '#core/colour/gamut';
import { exposure, sharpness, type Exposure } from '#core/pixels/measure';
import { opened, pixelsOf, type Pixels } from './pixels';

/**
 * Pictures are decoded and made in a process of their own (../apart): a decoder that breaks takes that process
 * down, and nothing else.
 */
sharp.concurrency(1);
sharp.cache(false);

/** More pixels than any camera or flatbed scanner of ours makes; a bomb has more. */
const MOST_PIXELS = 400_000_000;
const OPTIONS: SharpOptions = {
  limitInputPixels: MOST_PIXELS,
  failOn: 'error',
  sequentialRead: true,
};

/** A picture file that libvips reads. */
export interface Decodable {
  path: string;
  /** EXIF orientation of the file it was taken from; null: it tells its own. */
  turn: number | null;
  /** Page of several, from 0. */
  page?: number;
}

export interface Rendition {
  /** Long edge, px. */
  edge: number;
  /** WebP quality 0–100 and effort 0–6. */
  quality: number;
  effort: number;
  target: string;
  /** What its temporary file is called by; who works on the same picture has another. */
  run: string;
}

export interface Rendered {
  /** px, of the original, upright */
  width: number;
  height: number;
  pages: number;
  made: { width: number; height: number; bytes: number }[];
  /** The smallest. */
  small: Pixels;
  /** Something shows through it. */
  isClear: boolean;
  /** Of its largest; null where that was not asked for. */
  measures: { sharpness: number; exposure: Exposure } | null;
}

/** Turn a preview upright by the orientation of the file it came from (Exif 3.0, 4.6.5.1.6). */
function upright(image: Sharp, orientation: number): Sharp {
  const turns: Record<number, [angle: number, flop: boolean]> = {
    2: [0, true],
    3: [180, false],
    4: [180, true],
    5: [270, true],
    6: [90, false],
    7: [90, true],
    8: [270, false],
  };
  const turn = turns[orientation];
  if (!turn) return image;
  const flopped = turn[1] ? image.flop() : image;
  return turn[0] === 0 ? flopped : flopped.rotate(turn[0]);
}

function openedUpright({ path, turn, page }: Decodable): Sharp {
  const image = sharp(path, page === undefined ? OPTIONS : { ...OPTIONS, page });
  return turn === null ? image.autoOrient() : upright(image, turn);
}

const fitted = (edge: number): ResizeOptions => ({
  width: edge,
  height: edge,
  fit: 'inside',
  withoutEnlargement: true,
});

interface Measured {
  /** px, upright */
  width: number;
  height: number;
  pages: number;
  /** Bytes its decoder holds whole. */
  held: number;
  /** EXIF orientation it is turned by. */
  turn: number;
}

/** How large a picture is, and what its decoder must hold whole: progressive and interlaced pictures (all coefficients,
 * up to 6 bytes a pixel) and those to be turned by a quarter (3 bytes); others are read strip by strip. */
export async function measurePicture(wish: Decodable): Promise<Measured> {
  const { width, height, isProgressive, orientation, pages } = await sharp(
    wish.path,
    OPTIONS,
  ).metadata();
  const turn = wish.turn ?? orientation ?? 1;
  const size = turn >= 5 ? { width: height, height: width } : { width, height };
  const each = isProgressive ? 6 : turn >= 5 ? 3 : 0;
  return { ...size, pages: pages ?? 1, held: width * height * each, turn };
}

/** Colours beyond sRGB that browsers can show are kept, in P3: such a picture is held with its profile. */
const inP3 = (image: Sharp): Sharp =>
  image.pipelineColourspace('rgb16').toColourspace('srgb').withIccProfile('p3');

async function isWide(image: Sharp): Promise<boolean> {
  const { icc } = await image.metadata();
  return icc !== undefined && isWideGamut(icc);
}

/** An alpha channel that is full everywhere hides nothing. */
function isClear({ data, channels }: Pixels): boolean {
  if (channels !== 4) return false;
  for (let at = 3; at < data.length; at += 4) if (data[at] !== 255) return true;
  return false;
}

/** Decode once to the largest size; each smaller one comes from the next larger. */
export async function renderSizes(
  wish: Decodable & { sizes: Rendition[]; measures?: boolean },
): Promise<Rendered> {
  const { width, height, pages } = await measurePicture(wish);
  const image = openedUpright(wish);
  const made: Rendered['made'] = [];
  // Cubic: from a decoder that already halved, the difference to a longer kernel is not seen but paid for.
  const first = image.resize({ ...fitted(wish.sizes[0]!.edge), kernel: 'cubic' });
  const wide = (await isWide(image))
    ? await inP3(first).tiff({ compression: 'none' }).toBuffer()
    : null;
  let pixels = wide ? null : await pixelsOf(first.toColourspace('srgb'));
  const largest = wish.measures ? (pixels ?? (await pixelsOf(sharp(wide!)))) : null;
  const found = largest && sharpness(largest);
  for (const { edge, quality, effort, target, run } of wish.sizes) {
    const from = wide ? sharp(wide).keepIccProfile() : opened(pixels!);
    const isFirst = made.length === 0;
    if (pixels && !isFirst) pixels = await pixelsOf(from.resize(fitted(edge)));
    const out = pixels ? opened(pixels) : isFirst ? from : from.resize(fitted(edge));
    const temporary = `${target}.${run}`;
    const info = await out.webp({ quality, effort }).toFile(temporary);
    await rename(temporary, target);
    made.push({ width: info.width, height: info.height, bytes: info.size });
  }
  const small = pixels ?? (await pixelsOf(sharp(wide!).resize(fitted(wish.sizes.at(-1)!.edge))));
  // How bright it is does not depend on its size.
  const measures = found === null ? null : { sharpness: found, exposure: exposure(small) };
  return { width, height, pages, made, small, isClear: isClear(small), measures };
}

/** One small picture in memory. */
export async function renderPixels(wish: Decodable & { edge: number }): Promise<Pixels> {
  return pixelsOf(openedUpright(wish).resize(fitted(wish.edge)).toColourspace('srgb'));
}

/** A pyramid of tiles (Deep Zoom layout) into `target_files`. */
export async function renderTiles(
  wish: Decodable & { target: string; size: number; overlap: number },
): Promise<{ width: number; height: number }> {
  const image = openedUpright(wish);
  const own = (await isWide(image)) ? inP3(image) : image.toColourspace('srgb');
  const { width, height } = await own
    .flatten({ background: '#e3e2de' })
    .jpeg({ quality: 86 })
    .tile({ size: wish.size, overlap: wish.overlap, layout: 'dz' })
    .toFile(wish.target);
  return { width, height };
}

/** Patches of this many pixels are enough to tell. */
const MOST_MEASURED = 1600;

/** How sharp and bright a part of a picture is, at its own pixels; the middle of it where it is large. */
export async function measureRegion(
  wish: Decodable & { region: { left: number; top: number; width: number; height: number } },
): Promise<{ sharpness: number; exposure: Exposure }> {
  const { width, height, turn } = await measurePicture(wish);
  const { region } = wish;
  const span = (from: number, part: number, whole: number): [at: number, length: number] => {
    const length = Math.max(64, Math.min(MOST_MEASURED, Math.round(part * whole)));
    const middle = (from + part / 2) * whole;
    return [
      Math.max(0, Math.min(whole - length, Math.round(middle - length / 2))),
      Math.min(whole, length),
    ];
  };
  const [left, wide] = span(region.left, region.width, width);
  const [top, high] = span(region.top, region.height, height);
  const part = { left, top, width: wide, height: high };
  const upright = openedUpright(wish).toColourspace('srgb');
  // What is turned is turned first, then cut: the part is told as one sees it.
  const cut = turn === 1 ? upright.extract(part) : opened(await pixelsOf(upright)).extract(part);
  const pixels = await pixelsOf(cut);
  return { sharpness: sharpness(pixels), exposure: exposure(pixels) };
}
