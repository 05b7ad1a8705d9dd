import type { Codes } from './arrays';
import { say, type Bits } from './bits';

/** Lists of items, one after the other: where each begins, and what they hold. */
export interface Listed {
  offsets: Uint32Array;
  rows: Uint32Array;
}

/** Items by their code. @param size codes there are; items that say nothing are in no list */
export function listed(codes: Codes, size: number): Listed {
  const offsets = new Uint32Array(size + 1);
  for (let row = 0; row < codes.length; row += 1)
    if (codes[row] !== 0) offsets[codes[row]! + 1]! += 1;
  for (let code = 0; code < size; code += 1) offsets[code + 1]! += offsets[code]!;
  const next = offsets.slice();
  const rows = new Uint32Array(offsets[size]!);
  for (let row = 0; row < codes.length; row += 1)
    if (codes[row] !== 0) rows[next[codes[row]!]!++] = row;
  return { offsets, rows };
}

/** Rows that are looked at one by one rather than joined word by word. */
export const MOST_FEW = 4096;

/**
 * Items in one of some lists, some more than once, where these are few; what changed since lies over them.
 * @param lists in which they lie, where these are not just those of their codes
 */
export function fewListed(
  { offsets, rows }: Listed,
  changed: ReadonlyMap<number, Uint32Array>,
  codes: readonly number[],
  lists = codes,
): number[] | null {
  let most = changed.size;
  for (const code of lists)
    if (code + 1 < offsets.length) most += offsets[code + 1]! - offsets[code]!;
  if (most > MOST_FEW) return null;
  const few: number[] = [];
  for (const code of lists) {
    if (code + 1 >= offsets.length) continue;
    for (let at = offsets[code]!; at < offsets[code + 1]!; at += 1)
      if (changed.size === 0 || !changed.has(rows[at]!)) few.push(rows[at]!);
  }
  const wished = new Set(codes);
  for (const [row, own] of changed) if (own.some((code) => wished.has(code))) few.push(row);
  return few;
}

/**
 * Mark every item in one of some lists; what changed since they were made lies over them.
 * @param changed codes an item has now
 * @param lists in which they lie, where these are not just those of their codes
 */
export function markListed(
  { offsets, rows }: Listed,
  changed: ReadonlyMap<number, Uint32Array>,
  codes: Iterable<number>,
  out: Bits,
  lists?: Iterable<number>,
): void {
  const wished = new Set(codes);
  for (const code of lists ?? wished) {
    if (code + 1 >= offsets.length) continue;
    for (let at = offsets[code]!; at < offsets[code + 1]!; at += 1) {
      const row = rows[at]!;
      out[row >>> 5]! |= 1 << (row & 31);
    }
  }
  for (const [row, own] of changed) {
    const holds = own.some((code) => wished.has(code));
    say(out, row, holds);
  }
}

/**
 * Which items hold each of very many words, and nothing else: what an item holds is not asked. What changed since the
 * lists were built lies over them.
 */
export class PostingColumn {
  #offsets: Uint32Array = new Uint32Array(1);
  #rows: Uint32Array = new Uint32Array(0);
  readonly #changed = new Map<number, Uint32Array>();

  set(row: number, codes: ArrayLike<number>): void {
    this.#changed.set(row, Uint32Array.from(codes));
  }

  /** Take what changed into the lists, where that is much. */
  settle(atLeast = 20_000): void {
    if (this.#changed.size < Math.max(1, atLeast)) return;
    let most = this.#offsets.length - 2;
    let last = 0;
    for (const [row, codes] of this.#changed) {
      if (row > last) last = row;
      for (let at = 0; at < codes.length; at += 1) if (codes[at]! > most) most = codes[at]!;
    }
    const isChanged = new Uint8Array(last + 1);
    for (const row of this.#changed.keys()) isChanged[row] = 1;
    const offsets = new Uint32Array(most + 2);
    const walk = (tell: (code: number, row: number) => void): void => {
      for (let code = 0; code + 1 < this.#offsets.length; code += 1)
        for (let at = this.#offsets[code]!; at < this.#offsets[code + 1]!; at += 1) {
          const row = this.#rows[at]!;
          if (row > last || isChanged[row] === 0) tell(code, row);
        }
      for (const [row, codes] of this.#changed)
        for (let at = 0; at < codes.length; at += 1) tell(codes[at]!, row);
    };
    walk((code) => (offsets[code + 1]! += 1));
    for (let code = 0; code <= most; code += 1) offsets[code + 1]! += offsets[code]!;
    const rows = new Uint32Array(offsets[most + 1]!);
    const next = offsets.slice();
    walk((code, row) => (rows[next[code]!++] = row));
    this.#offsets = offsets;
    this.#rows = rows;
    this.#changed.clear();
  }

  /** Items that hold one of some words, where these are few. */
  few(codes: readonly number[]): number[] | null {
    return fewListed({ offsets: this.#offsets, rows: this.#rows }, this.#changed, codes);
  }
  /** Mark every item that holds one of some words. */
  mark(codes: Iterable<number>, out: Bits): void {
    markListed({ offsets: this.#offsets, rows: this.#rows }, this.#changed, codes, out);
  }

  /** Mark every item that holds any. */
  markAny(out: Bits): void {
    for (let at = 0; at < this.#rows.length; at += 1) {
      const row = this.#rows[at]!;
      out[row >>> 5]! |= 1 << (row & 31);
    }
    for (const [row, own] of this.#changed) say(out, row, own.length > 0);
  }

  static from(plain: Listed): PostingColumn {
    const column = new PostingColumn();
    column.#offsets = plain.offsets;
    column.#rows = plain.rows;
    return column;
  }
  toPlain(): Listed {
    this.settle(1);
    return { offsets: this.#offsets, rows: this.#rows };
  }
}
