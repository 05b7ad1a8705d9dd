import { shared, type Codes } from './arrays';

/** Lists of codes, one after the other: where each begins, and what they hold. */
export interface Lists {
  offsets: Uint32Array;
  codes: Codes;
}

/** In a slot: nothing; in the first of an item: it has no code at all; above these a code and `BASE`. */
export const EMPTY = 0;
export const NOTHING_SAID = 1;
export const BASE = 2;

/** What does not fit into the slots of an item: its row, where its codes end, and these. */
export interface More {
  rows: Uint32Array;
  ends: Uint32Array;
  codes: Codes;
}

/** A list and its place in memory cost about as much to fetch as so many slots next to one that was fetched. */
const FETCH = 12;
const MOST_WIDTH = 8;

type Kind = Uint8ArrayConstructor | Uint16ArrayConstructor | Uint32ArrayConstructor;
/** Codes are below `size`; the largest number is kept for “there are more”. */
const kindFor = (size: number): Kind =>
  size + BASE < 0xff ? Uint8Array : size + BASE < 0xffff ? Uint16Array : Uint32Array;
/** What the last slot says where an item has more codes than there are slots. */
export const manyIn = (slots: Codes): number => 2 ** (8 * slots.BYTES_PER_ELEMENT) - 1;

/** How many slots for each item make its codes quickest to fetch. */
function widthFor(offsets: Uint32Array): number {
  const longer = new Float64Array(MOST_WIDTH + 2);
  for (let row = 0; row + 1 < offsets.length; row += 1)
    longer[Math.min(offsets[row + 1]! - offsets[row]!, MOST_WIDTH + 1)]! += 1;
  for (let width = MOST_WIDTH; width > 0; width -= 1) longer[width]! += longer[width + 1]!;
  let best = 1;
  let least = Infinity;
  for (let width = 1; width <= MOST_WIDTH; width += 1) {
    const cost = width * (offsets.length - 1) + FETCH * longer[width + 1]!;
    if (cost < least) [best, least] = [width, cost];
  }
  return best;
}

/**
 * Some codes for each item, in slots of one width: to fetch them costs one look into memory, where offsets cost two. The
 * few items that have more codes than slots have all of them elsewhere but those of the first slots.
 */
export class Packed {
  static readonly NONE = Packed.of({ offsets: new Uint32Array(1), codes: new Uint8Array(0) }, 0);

  private constructor(
    readonly slots: Codes,
    readonly width: number,
    readonly more: More,
    /** Codes are below this. */
    readonly size: number,
  ) {}

  static of({ offsets, codes }: Lists, size: number): Packed {
    const width = widthFor(offsets);
    const kind = kindFor(size);
    const slots = shared<Codes>(kind, (offsets.length - 1) * width);
    const many = manyIn(slots);
    let [rows, beyond] = [0, 0];
    for (let row = 0; row + 1 < offsets.length; row += 1) {
      const length = offsets[row + 1]! - offsets[row]!;
      if (length > width) [rows, beyond] = [rows + 1, beyond + length - width + 1];
    }
    const more: More = {
      rows: shared(Uint32Array, rows),
      ends: shared(Uint32Array, rows),
      codes: shared<Codes>(kind, beyond),
    };
    [rows, beyond] = [0, 0];
    for (let row = 0; row + 1 < offsets.length; row += 1) {
      const [from, end] = [offsets[row]!, offsets[row + 1]!];
      const isMany = end - from > width;
      const own = isMany ? width - 1 : end - from;
      let slot = row * width;
      for (let at = from; at < from + own; at += 1) slots[slot++] = codes[at]! + BASE;
      if (from === end) slots[slot] = NOTHING_SAID;
      if (!isMany) continue;
      slots[slot] = many;
      for (let at = from + own; at < end; at += 1) more.codes[beyond++] = codes[at]!;
      more.rows[rows] = row;
      more.ends[rows++] = beyond;
    }
    return new Packed(slots, width, more, size);
  }

  get rows(): number {
    return this.slots.length / this.width;
  }

  isEmpty(row: number): boolean {
    return this.slots[row * this.width] === NOTHING_SAID;
  }

  /** Codes of an item, in their order. */
  listOf(row: number): number[] {
    const { slots, width, more } = this;
    const found: number[] = [];
    const many = manyIn(slots);
    for (let slot = row * width; slot < (row + 1) * width; slot += 1) {
      const code = slots[slot]!;
      if (code === many) {
        const at = placeOf(more.rows, row, 0);
        for (let i = at > 0 ? more.ends[at - 1]! : 0; i < more.ends[at]!; i += 1)
          found.push(more.codes[i]!);
      } else if (code >= BASE) found.push(code - BASE);
      else break;
    }
    return found;
  }

  /** The same, one after the other. */
  lists(): Lists {
    return listsOf(this.rows, (row) => this.listOf(row), this.size);
  }
}

/** Where a row is among ascending ones, which has it. @param from is not behind it */
export function placeOf(rows: Uint32Array, row: number, from: number): number {
  if (rows[from] === row) return from;
  let [low, high] = [from, rows.length];
  while (low < high) {
    const middle = (low + high) >>> 1;
    if (rows[middle]! < row) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** Put lists one after the other. @param size codes are below this */
export function listsOf(
  rows: number,
  listOf: (row: number) => ArrayLike<number>,
  size: number,
): Lists {
  const offsets = new Uint32Array(rows + 1);
  const kind: Kind = size <= 65_536 ? Uint16Array : Uint32Array;
  let codes = new kind(2 * rows);
  let end = 0;
  for (let row = 0; row < rows; row += 1) {
    const list = listOf(row);
    if (end + list.length > codes.length) {
      const before = codes;
      codes = new kind(2 * before.length + list.length);
      codes.set(before);
    }
    for (let at = 0; at < list.length; at += 1) codes[end++] = list[at]!;
    offsets[row + 1] = end;
  }
  return { offsets, codes: codes.subarray(0, end) };
}
