import pLimit from 'p-limit';
import type { Sharp } from 'sharp';

/** Bytes a decoder may hold beside those of others. */
const LIGHT = 64 << 20;
const heavy = pLimit(1);

/**
 * Decode in turn what its decoder must hold whole: progressive and interlaced pictures (all coefficients, up
 * to 6 bytes a pixel) and those to be turned by a quarter (3 bytes). Others are read strip by strip.
 */
export async function inTurn<T>(image: Sharp, decode: () => Promise<T>): Promise<T> {
  const { width, height, isProgressive, orientation = 1 } = await image.metadata();
  const each = isProgressive ? 6 : orientation >= 5 ? 3 : 0;
  return width * height * each > LIGHT ? heavy(decode) : decode();
}
