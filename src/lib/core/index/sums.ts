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

/** Sums by code while they are put together, all 0 between; most columns tell few of their codes. */
let scratch = new Uint32Array(0);
/** Put sums together by their code in memory used again and again, and tell those that are. @param size codes are below */
export function put(size: number, together: (sums: Uint32Array) => void): Sums {
  if (scratch.length < size) scratch = new Uint32Array(size * 1.5);
  const sums = scratch.subarray(0, size);
  together(sums);
  const { codes, counts } = told(sums);
  const lacking = sums[0]!;
  sums.fill(0);
  return { codes, counts, lacking };
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
  const { codes, counts } = put(whole.length, (sums) => {
    sums.set(whole);
    for (let at = 0; at < some.codes.length; at += 1) sums[some.codes[at]!]! -= some.counts[at]!;
  });
  return { codes, counts, lacking: lacking - some.lacking };
}

/** Of no numbers there is none. */
export const histogramOf = ({ counts, span }: Sums): Histogram | undefined =>
  span && span.from <= span.to ? { ...span, counts: Array.from(counts) } : undefined;
