import type { Codes } from './arrays';

/**
 * What is counted over some items, told by arrays alone: whoever has them can count it, another thread too.
 * `codes` has one code for each item, 0 where it says nothing or lies beyond; `lists` has some, between two
 * offsets.
 */
export type Count =
  | { how: 'codes'; codes: Codes; size: number }
  | { how: 'lists'; offsets: Uint32Array; codes: Codes; size: number; follows?: Follows };

/** What follows from codes of lists that leave it out. */
export interface Follows {
  /** For each code the one above it, which all that have it have too; or `NONE`. */
  above: Uint32Array;
  /** Codes that have one above, each before those it leads to. */
  rising: Uint32Array;
  /** Codes behind all others tell that from this one upwards a list would count twice. */
  joins: Uint32Array;
}
export const NONE = 0xffff_ffff;

/** How often each code, or bar of numbers, is told of those that are, and how many items tell none. */
export interface Sums {
  /** In no order, each once; 0 is a code like others. */
  codes: Uint32Array;
  counts: Uint32Array;
  lacking: number;
  /** The smallest and the largest number; of none, infinite. */
  span?: { from: number; to: number };
}

/** Counts by code, all 0 while nobody counts: most sets of items tell few of very many codes. */
let sheet = new Uint32Array(0);
/** Codes that are told, where they are few. */
let noted = new Uint32Array(0);
function sheetOf(size: number): Uint32Array {
  if (sheet.length < size) {
    sheet = new Uint32Array(size);
    noted = new Uint32Array(size);
  }
  return sheet;
}
/** What the sheet says of the first codes, and leave it empty. @param few how many are noted, else all are looked at */
function takeSheet(size: number, few: number | null): Pick<Sums, 'codes' | 'counts'> {
  let count = few ?? 0;
  const all = noted;
  if (few === null)
    for (let code = 0; code < size; code += 1) if (sheet[code] !== 0) all[count++] = code;
  const codes = all.slice(0, count);
  const counts = new Uint32Array(count);
  for (let at = 0; at < count; at += 1) {
    counts[at] = sheet[codes[at]!]!;
    sheet[codes[at]!] = 0;
  }
  return { codes, counts };
}
/** Where so many times more codes than rows are there, those that are told are noted. */
const FEW = 4;

/** Rows are ascending: how many of them an array tells of. */
function within(rows: Uint32Array, length: number): number {
  let count = rows.length;
  while (count > 0 && rows[count - 1]! >= length) count -= 1;
  return count;
}

function countCodes(rows: Uint32Array, codes: Codes, size: number): Sums {
  const sums = sheetOf(size);
  const count = within(rows, codes.length);
  if (rows.length * FEW < size) {
    const own = noted;
    let found = 0;
    for (let at = 0; at < rows.length; at += 1) {
      const code = at < count ? codes[rows[at]!]! : 0;
      if (sums[code] === 0) own[found++] = code;
      sums[code]! += 1;
    }
    const lacking = sums[0]!;
    return { ...takeSheet(size, found), lacking };
  }
  // Four at a time: what one adds to does not wait for what the one before fetches.
  let at = 0;
  for (; at + 4 <= count; at += 4) {
    const a = codes[rows[at]!]!;
    const b = codes[rows[at + 1]!]!;
    const c = codes[rows[at + 2]!]!;
    const d = codes[rows[at + 3]!]!;
    sums[a]! += 1;
    sums[b]! += 1;
    sums[c]! += 1;
    sums[d]! += 1;
  }
  for (; at < count; at += 1) sums[codes[rows[at]!]!]! += 1;
  sums[0]! += rows.length - count;
  const lacking = sums[0]!;
  return { ...takeSheet(size, null), lacking };
}

function countLists(
  rows: Uint32Array,
  { offsets, codes, size, follows }: Count & { how: 'lists' },
): Sums {
  const sums = sheetOf(size);
  const count = within(rows, offsets.length - 1);
  const own = noted;
  const isFew = rows.length * FEW < size;
  let lacking = rows.length - count;
  let found = 0;
  for (let at = 0; at < count; at += 1) {
    const row = rows[at]!;
    const from = offsets[row]!;
    const end = offsets[row + 1]!;
    if (from === end) lacking += 1;
    else if (isFew)
      for (let i = from; i < end; i += 1) {
        const code = codes[i]!;
        if (sums[code] === 0) own[found++] = code;
        sums[code]! += 1;
      }
    else for (let i = from; i < end; i += 1) sums[codes[i]!]! += 1;
  }
  if (follows && isFew) found = addFew(follows, found);
  else if (follows) addAll(follows);
  return { ...takeSheet(follows?.above.length ?? size, isFew ? found : null), lacking };
}

/** Add to all codes of the sheet what follows. */
function addAll({ above, rising, joins }: Follows): void {
  // Counts below zero turn over; what they are added to turns back.
  for (let at = 0; at < joins.length; at += 1) {
    sheet[joins[at]!]! -= sheet[above.length + at]!;
    sheet[above.length + at] = 0;
  }
  for (let at = 0; at < rising.length; at += 1) {
    const code = rising[at]!;
    sheet[above[code]!]! += sheet[code]!;
  }
}

/** Add what follows from the codes noted. @returns how many are noted then */
function addFew({ above, joins }: Follows, few: number): number {
  const own = noted;
  const codes = own.slice(0, few);
  const counts = new Uint32Array(few);
  for (let at = 0; at < few; at += 1) {
    counts[at] = sheet[codes[at]!]!;
    sheet[codes[at]!] = 0;
  }
  let found = 0;
  for (let at = 0; at < few; at += 1)
    for (let code = codes[at]!; code < above.length; code = above[code]!) {
      if (sheet[code] === 0) own[found++] = code;
      sheet[code]! += counts[at]!;
    }
  for (let at = 0; at < few; at += 1)
    if (codes[at]! >= above.length)
      for (let code = joins[codes[at]! - above.length]!; code !== NONE; code = above[code]!)
        sheet[code]! -= counts[at]!;
  return found;
}

/** Count over some items. @param rows ascending */
export function countOver(rows: Uint32Array, count: Count): Sums {
  return count.how === 'codes'
    ? countCodes(rows, count.codes, count.size)
    : countLists(rows, count);
}
