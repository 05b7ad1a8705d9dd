import type { Codes } from './arrays';

/** Sets of items: one bit for each small integer, in words of 32. */
export type Bits = Uint32Array;

/**
 * Mark every item whose code a table says yes to; of those it says perhaps to, those that hold.
 * @param codes one for each item, from the first; items beyond say nothing
 * @param table 1 yes, 2 perhaps, by code
 */
export function markWhere(
  codes: Codes,
  table: Uint8Array,
  holds: (row: number) => boolean,
  out: Bits,
): void {
  const words = Math.min(out.length, codes.length >>> 5);
  let isAsked = false;
  for (let code = 0; code < table.length; code += 1) if (table[code] === 2) isAsked = true;
  const yes = isAsked ? table.map((say) => say & 1) : table;
  for (let word = 0, row = 0; word < words; word += 1) {
    let found = 0;
    for (let shift = 0; shift < 32; shift += 4, row += 4)
      found |=
        (yes[codes[row]!]! |
          (yes[codes[row + 1]!]! << 1) |
          (yes[codes[row + 2]!]! << 2) |
          (yes[codes[row + 3]!]! << 3)) <<
        shift;
    out[word]! |= found;
  }
  const rest = Math.min(out.length * 32, codes.length);
  for (let row = words * 32; row < rest; row += 1)
    if (yes[codes[row]!] === 1) out[row >>> 5]! |= 1 << (row & 31);
  if (isAsked)
    for (let row = 0; row < rest; row += 1)
      if (table[codes[row]!] === 2 && holds(row)) out[row >>> 5]! |= 1 << (row & 31);
}

/** Bits for as many items, all set or none. Those beyond the size stay unset. */
export function filled(size: number, all: boolean): Bits {
  const bits = new Uint32Array(Math.ceil(size / 32));
  if (all) flip(bits, size);
  return bits;
}

export function and(into: Bits, other: Bits): void {
  for (let at = 0; at < into.length; at += 1) into[at]! &= other[at]!;
}
export function andNot(into: Bits, other: Bits): void {
  for (let at = 0; at < into.length; at += 1) into[at]! &= ~other[at]!;
}
export function or(into: Bits, other: Bits): void {
  for (let at = 0; at < into.length; at += 1) into[at]! |= other[at]!;
}
/** Say the opposite of every item below the size. */
export function flip(into: Bits, size: number): void {
  for (let at = 0; at < into.length; at += 1) into[at] = ~into[at]!;
  if (size % 32) into[into.length - 1]! &= (1 << (size % 32)) - 1;
}

/** Say of one item whether it is in a set. */
export function say(bits: Bits, row: number, holds: boolean): void {
  if (holds) bits[row >>> 5]! |= 1 << (row & 31);
  else bits[row >>> 5]! &= ~(1 << (row & 31));
}
export const isIn = (bits: Bits, row: number): boolean =>
  ((bits[row >>> 5]! >>> (row & 31)) & 1) === 1;

function ones(word: number): number {
  let w = word - ((word >>> 1) & 0x55555555);
  w = (w & 0x33333333) + ((w >>> 2) & 0x33333333);
  return Math.imul((w + (w >>> 4)) & 0x0f0f0f0f, 0x01010101) >>> 24;
}

/** How many items are in a set. */
export function countOf(bits: Bits): number {
  let count = 0;
  for (let at = 0; at < bits.length; at += 1) count += ones(bits[at]!);
  return count;
}

/** How many items are in both of two sets. */
export function countOfBoth(bits: Bits, other: Bits): number {
  let count = 0;
  for (let at = 0; at < bits.length; at += 1) count += ones(bits[at]! & other[at]!);
  return count;
}

/** The items of a set, ascending. @param count how many they are */
export function rowsOf(
  bits: Bits,
  count = countOf(bits),
  rows: Uint32Array = new Uint32Array(count),
): Uint32Array {
  for (let word = 0, at = 0; word < bits.length; word += 1)
    for (let left = bits[word]!; left !== 0; left &= left - 1)
      rows[at++] = word * 32 + 31 - Math.clz32(left & -left);
  return rows;
}

/** A set of some items. */
export function bitsOf(rows: Uint32Array, size: number): Bits {
  const bits = filled(size, false);
  for (let at = 0; at < rows.length; at += 1) bits[rows[at]! >>> 5]! |= 1 << (rows[at]! & 31);
  return bits;
}
