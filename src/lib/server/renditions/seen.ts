import { readFile } from 'node:fs/promises';
import sharp, { type Sharp } from 'sharp';
import { mainColours } from '#core/colour/palette';
import { exposure, sharpness, type Exposure } from '#core/pixels/measure';
import type { Technical } from '#core/records/technical';
import { pixelsOf, type Pixels } from './pixels';

/** What is told from pictures of our own making: nothing of others is decoded here. */

/** px; colours do not get truer with more. */
const COLOUR_EDGE = 64;

/** Main colours, from the small picture. */
export async function coloursOf(small: Sharp): Promise<string[]> {
  const pixels = await small
    .flatten({ background: '#808080' })
    .resize(COLOUR_EDGE, COLOUR_EDGE, { fit: 'inside' })
    .toColourspace('srgb')
    .raw()
    .toBuffer();
  return mainColours(pixels);
}

const percent = (part: number): number => Math.round(part * 1000) / 10;

/** Measures as they are kept. */
export const measuresOf = (found: { sharpness: number; exposure: Exposure }): Technical => ({
  sharpness: found.sharpness,
  brightness: percent(found.exposure.mean),
  lostInWhite: percent(found.exposure.white),
  lostInBlack: percent(found.exposure.black),
});

/** Measures of pictures that are there already: how sharp tells the large one, how bright the small one. */
export async function measuresFrom(large: string, small: string): Promise<Technical> {
  const read = async (path: string): Promise<Pixels> =>
    pixelsOf(sharp(await readFile(path)).toColourspace('srgb'));
  return measuresOf({
    sharpness: sharpness(await read(large)),
    exposure: exposure(await read(small)),
  });
}
