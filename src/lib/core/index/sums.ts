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

/** Sums that are put in order, each with its code as one number. */
let keys = new Float64Array(0);

/** The largest sums, the largest first, of equal ones the smaller code. */
export function largest(
  { codes, counts }: Sums,
  from: number,
  most: number,
): { codes: number[]; counts: number[] } {
  // Some more are gathered than are wished for, and put in order only when there is no more room.
  const room = most * 4;
  if (keys.length < room) keys = new Float64Array(room);
  let gathered = 0;
  let least = 0;
  const settle = (): void => {
    keys.subarray(0, gathered).sort();
    const kept = Math.min(most, gathered);
    keys.copyWithin(0, gathered - kept, gathered);
    gathered = kept;
    if (kept === most) least = keys[0]!;
  };
  for (let at = 0; at < codes.length; at += 1) {
    const code = codes[at]!;
    const count = counts[at]!;
    const key = count * MOST_CODES + (MOST_CODES - 1 - code);
    if (key <= least || code < from || count === 0) continue;
    keys[gathered++] = key;
    if (gathered === room) settle();
  }
  settle();
  const found = { codes: new Array<number>(gathered), counts: new Array<number>(gathered) };
  for (let at = 0; at < gathered; at += 1) {
    const key = keys[gathered - 1 - at]!;
    const count = Math.floor(key / MOST_CODES);
    found.codes[at] = MOST_CODES - 1 - (key - count * MOST_CODES);
    found.counts[at] = count;
  }
  return found;
}
