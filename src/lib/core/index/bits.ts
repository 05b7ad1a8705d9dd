/** Sets of items: one bit for each small integer, in words of 32. */
export type Bits = Uint32Array;

/** One byte for each item, 0 or 1, while a condition is being found out. */
export type Flags = Uint8Array;

export const flags = (size: number): Flags =>
  new Uint8Array(new ArrayBuffer((size + 31) & ~31), 0, size);

let sheet = flags(0);
/** Flags that whoever asked last has done with, all unset. */
export function scratch(size: number): Flags {
  if (sheet.length === size) sheet.fill(0);
  else sheet = flags(size);
  return sheet;
}

/** Bits of flags that {@link flags} made. */
export function packed({ buffer }: Flags): Bits {
  const fours = new Uint32Array(buffer);
  const bits = new Uint32Array(fours.length / 8);
  for (let word = 0, at = 0; word < bits.length; word += 1) {
    let found = 0;
    // Four bytes at once: the lowest bit of each moves beside those of the others.
    for (let shift = 0; shift < 32; shift += 4, at += 1) {
      const w = fours[at]!;
      found |= ((w | (w >>> 7) | (w >>> 14) | (w >>> 21)) & 15) << shift;
    }
    bits[word] = found;
  }
  return bits;
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

/** The items of a set, ascending. */
export function rowsOf(bits: Bits): Uint32Array {
  const rows = new Uint32Array(countOf(bits));
  for (let word = 0, at = 0; word < bits.length; word += 1)
    for (let left = bits[word]!; left !== 0; left &= left - 1)
      rows[at++] = word * 32 + 31 - Math.clz32(left & -left);
  return rows;
}
