import type { Histogram } from '../catalogue/tile';
import type { Sums } from './counting';

/** Nobody tells anything. */
export const NOTHING: Pick<Sums, 'codes' | 'counts'> = {
  codes: new Uint32Array(0),
  counts: new Uint32Array(0),
};

/** Sums over everything, by code. */
export interface Whole {
  sums: Uint32Array;
  lacking: number;
}

/** Codes that are told at all, of sums by code. */
export function told(sums: Uint32Array): Pick<Sums, 'codes' | 'counts'> {
  let count = 0;
  for (let code = 0; code < sums.length; code += 1) if (sums[code] !== 0) count += 1;
  const codes = new Uint32Array(count);
  const counts = new Uint32Array(count);
  for (let code = 0, at = 0; at < count; code += 1)
    if (sums[code] !== 0) {
      codes[at] = code;
      counts[at++] = sums[code]!;
    }
  return { codes, counts };
}

/** All of some items have one code. */
export function alike(code: number, count: number): Sums {
  return {
    codes: Uint32Array.of(code),
    counts: Uint32Array.of(count),
    lacking: code === 0 ? count : 0,
  };
}

/** Sums over everything without those over some. */
export function less({ sums: whole, lacking }: Whole, some: Sums): Sums {
  const sums = whole.slice();
  for (let at = 0; at < some.codes.length; at += 1) sums[some.codes[at]!]! -= some.counts[at]!;
  return { ...told(sums), lacking: lacking - some.lacking };
}

/** Of no numbers there is none. */
export const histogramOf = ({ counts, span }: Sums): Histogram | undefined =>
  span && span.from <= span.to ? { ...span, counts: Array.from(counts) } : undefined;

/** Codes there may be: a sum and its code make one number, by which they are put in order. */
const MOST_CODES = 2 ** 26;

/** The largest sums, the largest first, of equal ones the smaller code. */
export function largest(
  { codes, counts }: Sums,
  from: number,
  most: number,
): { code: number; count: number }[] {
  // Some more are gathered than are wished for, and put in order only when there is no more room.
  const keys = new Float64Array(most * 4);
  let gathered = 0;
  let least = 0;
  const settle = (): void => {
    const sorted = keys.subarray(0, gathered).sort();
    gathered = Math.min(most, gathered);
    sorted.copyWithin(0, sorted.length - gathered);
    if (gathered === most) least = keys[0]!;
  };
  for (let at = 0; at < codes.length; at += 1) {
    const code = codes[at]!;
    const key = counts[at]! * MOST_CODES + (MOST_CODES - 1 - code);
    if (key <= least || code < from || counts[at] === 0) continue;
    keys[gathered++] = key;
    if (gathered === keys.length) settle();
  }
  settle();
  return Array.from(keys.subarray(0, gathered).reverse(), (key) => {
    const count = Math.floor(key / MOST_CODES);
    return { code: MOST_CODES - 1 - (key - count * MOST_CODES), count };
  });
}
