/** Grey values 0–255 by rows. */
export interface Grey {
  data: Uint8Array | Uint8ClampedArray;
  width: number;
  height: number;
}

/** Values 0–255 by rows, some for each pixel. */
export interface Raster extends Grey {
  /** 1 grey, 3 RGB, 4 with alpha; 1 unless said */
  channels?: number;
}

/** Luma of sRGB values (Rec. 709 weights); grey stays as it is. */
export function greyOf({ data, width, height, channels = 1 }: Raster): Grey {
  if (channels < 3) return { data, width, height };
  const grey = new Uint8Array(width * height);
  for (let at = 0, from = 0; at < grey.length; at += 1, from += channels)
    grey[at] =
      (data[from]! * 13_933 + data[from + 1]! * 46_871 + data[from + 2]! * 4732 + 32_768) >> 16;
  return { data: grey, width, height };
}

/** px; the sharpest patch decides: what a picture is of may fill a small part of it. */
const PATCH = 32;
/** Of more patches than these every fourth is enough: one of each diagonal of four. */
const ENOUGH = 1000;
/** Part of the patches that count. */
const BEST = 0.1;
/** Of patches that are flat nothing is known. */
const LEAST_CONTRAST = 12;

/**
 * How sharp a picture is, 0 … 100: in its sharpest tenth of patches, how much of the contrast lies between neighbouring
 * pixels. Contrast by itself and brightness do not count, nor does a blurred ground behind what is sharp. The
 * Laplacian's energy over the patch's own variance (Pech-Pacheco et al. 2000, made even by contrast). Of colours green
 * is taken for luma: it is most of it, and most of what a sensor sees.
 */
export function sharpness({ data, width, height, channels = 1 }: Raster): number {
  const green = channels >= 3 ? 1 : 0;
  const row = width * channels;
  const found: number[] = [];
  const all = Math.floor(width / PATCH) * Math.floor(height / PATCH) <= ENOUGH;
  for (let top = 1; top + PATCH < height; top += PATCH)
    for (let left = 1; left + PATCH < width; left += PATCH) {
      if (!all && ((left + 2 * top) / PATCH) & 3) continue;
      let [sum, squares, edges] = [0, 0, 0];
      for (let y = top; y < top + PATCH; y += 1)
        for (let x = left, at = y * row + left * channels + green; x < left + PATCH; x += 1) {
          const own = data[at]!;
          sum += own;
          squares += own * own;
          const around =
            data[at - channels]! + data[at + channels]! + data[at - row]! + data[at + row]!;
          const edge = 4 * own - around;
          edges += edge * edge;
          at += channels;
        }
      const pixels = PATCH * PATCH;
      const variance = squares / pixels - (sum / pixels) ** 2;
      if (variance > LEAST_CONTRAST ** 2) found.push(edges / pixels / variance);
    }
  if (found.length === 0) return 0;
  found.sort((a, b) => b - a);
  const best = found.slice(0, Math.max(1, Math.round(found.length * BEST)));
  const mean = best.reduce((total, one) => total + one, 0) / best.length;
  // White noise has 20; what a lens draws at pixel scale about 2.
  return Math.round(100 * (1 - Math.exp(-mean)));
}

export interface Exposure {
  /** Mean of the luma, 0 … 1. */
  mean: number;
  /** Part of the pixels that are black or white beyond telling, 0 … 1. */
  black: number;
  white: number;
}

/** Where a value says nothing any more. */
export const lostIn = (value: number): 'black' | 'white' | null =>
  value <= 2 ? 'black' : value >= 253 ? 'white' : null;

/** How bright a picture is; what is clear has no light. */
export function exposure(raster: Raster): Exposure {
  const { data } = greyOf(raster);
  const isClear = clearIn(raster);
  let [all, sum, black, white] = [0, 0, 0, 0];
  for (let at = 0; at < data.length; at += 1) {
    if (isClear(at)) continue;
    const own = data[at]!;
    all += 1;
    sum += own;
    const lost = lostIn(own);
    if (lost === 'black') black += 1;
    else if (lost === 'white') white += 1;
  }
  const rounded = (part: number): number => Math.round((part / Math.max(1, all)) * 1000) / 1000;
  return { mean: rounded(sum / 255), black: rounded(black), white: rounded(white) };
}

/** Whether a pixel of a picture with an alpha channel is clear. */
export const clearIn = ({ data, channels }: Raster): ((at: number) => boolean) =>
  channels === 4 ? (at) => data[at * 4 + 3] === 0 : () => false;

export interface Histogram {
  red: Uint32Array;
  green: Uint32Array;
  blue: Uint32Array;
}

/** How often each of 256 values is in each channel. */
export function histogramOf(data: Uint8Array | Uint8ClampedArray, channels: number): Histogram {
  const [red, green, blue] = [new Uint32Array(256), new Uint32Array(256), new Uint32Array(256)];
  for (let at = 0; at + 2 < data.length; at += channels) {
    if (channels === 4 && data[at + 3] === 0) continue;
    red[data[at]!]! += 1;
    green[data[at + 1]!]! += 1;
    blue[data[at + 2]!]! += 1;
  }
  return { red, green, blue };
}
