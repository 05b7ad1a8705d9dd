import type { Codes } from './arrays';
import { largest } from './largest';
import { BASE, EMPTY, manyIn, NOTHING_SAID, placeOf, type More } from './packed';

/**
 * What is counted over some items, told by arrays alone: whoever has them can count it, another thread too.
 * `codes` has one code for each item, 0 where it says nothing or lies beyond; `lists` has some, packed.
 */
export type Count =
  | { how: 'codes'; codes: Codes; size: number; cut?: Cut }
  | {
      how: 'lists';
      slots: Codes;
      width: number;
      more: More;
      size: number;
      follows?: Follows;
      cut?: Cut;
    };

/** Only the largest sums are wished for: there may be tens of thousands. */
export interface Cut {
  most: number;
  /** Codes below are left out. */
  from: number;
  /** Counted is what is to be taken from this. */
  whole?: Uint32Array;
}

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

/** Counts by slot, all 0 while nobody counts: most sets of items tell few of very many codes. */
let slotSheet = new Uint32Array(BASE);
/** The same, by code. */
let sheet = slotSheet.subarray(BASE);
/** Codes that are told, where they are few. */
let noted = new Uint32Array(0);
/** Make room for codes below a size. */
function makeRoom(size: number): void {
  if (sheet.length >= size) return;
  slotSheet = new Uint32Array(size + BASE);
  sheet = slotSheet.subarray(BASE);
  noted = new Uint32Array(size + BASE);
}
/** What the sheet says of the first codes, and leave it empty. @param few how many are noted, else all are looked at */
function takeSheet(
  size: number,
  few: number | null,
  cut: Cut | undefined,
): Pick<Sums, 'codes' | 'counts'> {
  if (cut && (few === null || cut.whole)) return takeCut(size, cut);
  const all = takeAll(size, few);
  return cut ? largest(all.codes, all.counts, cut.from, cut.most) : all;
}
function takeCut(size: number, { most, from, whole }: Cut): Pick<Sums, 'codes' | 'counts'> {
  const sums = sheet.subarray(0, size);
  if (whole) for (let code = 0; code < size; code += 1) sums[code] = whole[code]! - sums[code]!;
  const found = largest(null, sums, from, most);
  sums.fill(0);
  return found;
}
function takeAll(size: number, few: number | null): Pick<Sums, 'codes' | 'counts'> {
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
const sumsOf = ({ codes, counts }: Pick<Sums, 'codes' | 'counts'>, lacking: number): Sums => ({
  codes,
  counts,
  lacking,
});
/** Where so many times more codes than rows are there, those that are told are noted. */
const FEW = 4;

/** Rows are ascending: how many of them an array tells of. */
function within(rows: Uint32Array, length: number): number {
  let count = rows.length;
  while (count > 0 && rows[count - 1]! >= length) count -= 1;
  return count;
}

function countCodes(rows: Uint32Array, { codes, size, cut }: Count & { how: 'codes' }): Sums {
  makeRoom(size);
  const sums = sheet;
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
    return sumsOf(takeSheet(size, found, cut), lacking);
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
  return sumsOf(takeSheet(size, null, cut), lacking);
}

function countLists(
  rows: Uint32Array,
  { slots, width, more, size, follows, cut }: Count & { how: 'lists' },
): Sums {
  makeRoom(size);
  const count = within(rows, slots.length / width);
  const isFew = rows.length * FEW < size;
  let found = isFew ? noteSlots(rows, count, slots, width, more) : 0;
  if (!isFew) addSlots(rows, count, slots, width, more);
  const lacking = rows.length - count + slotSheet[NOTHING_SAID]!;
  slotSheet[NOTHING_SAID] = slotSheet[EMPTY] = 0;
  if (follows && isFew) found = addFew(follows, found);
  else if (follows) addAll(follows);
  return sumsOf(takeSheet(follows?.above.length ?? size, isFew ? found : null, cut), lacking);
}

/** Count all codes of some items. */
function addSlots(
  rows: Uint32Array,
  count: number,
  slots: Codes,
  width: number,
  { rows: those, ends, codes }: More,
): void {
  const [sums, byCode] = [slotSheet, sheet];
  const many = manyIn(slots);
  const last = width - 1;
  let place = 0;
  for (let at = 0; at < count; at += 1) {
    const first = rows[at]! * width;
    for (let slot = first; slot < first + last; slot += 1) sums[slots[slot]!]! += 1;
    const code = slots[first + last]!;
    if (code !== many) {
      sums[code]! += 1;
      continue;
    }
    place = placeOf(those, rows[at]!, place);
    for (let i = place > 0 ? ends[place - 1]! : 0; i < ends[place]!; i += 1)
      byCode[codes[i]!]! += 1;
  }
}

/** Count a code, and note it the first time. @returns how many are noted then */
function note(sums: Uint32Array, own: Uint32Array, code: number, found: number): number {
  const before = sums[code]!;
  sums[code] = before + 1;
  if (before > 0) return found;
  own[found] = code;
  return found + 1;
}

/** As {@link addSlots}, and note the codes. @returns how many are noted */
function noteSlots(
  rows: Uint32Array,
  count: number,
  slots: Codes,
  width: number,
  { rows: those, ends, codes }: More,
): number {
  const [sums, own] = [sheet, noted];
  const many = manyIn(slots);
  let place = 0;
  let found = 0;
  let silent = 0;
  for (let at = 0; at < count; at += 1) {
    const first = rows[at]! * width;
    for (let slot = first; slot < first + width; slot += 1) {
      const code = slots[slot]!;
      if (code === EMPTY) break;
      if (code === NOTHING_SAID) silent += 1;
      else if (code !== many) found = note(sums, own, code - BASE, found);
      else {
        place = placeOf(those, rows[at]!, place);
        for (let i = place > 0 ? ends[place - 1]! : 0; i < ends[place]!; i += 1)
          found = note(sums, own, codes[i]!, found);
      }
    }
  }
  slotSheet[NOTHING_SAID] = silent;
  return found;
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
  try {
    return count.how === 'codes' ? countCodes(rows, count) : countLists(rows, count);
  } catch (error) {
    // Half a count must not be added to the next.
    slotSheet.fill(0);
    throw error;
  }
}
