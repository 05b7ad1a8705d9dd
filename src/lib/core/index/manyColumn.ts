import { shared } from './arrays';
import { say, type Bits } from './bits';
import { countOver, type Count, type Sums } from './counting';
import { Implied, shortened, type ImpliedPlain } from './implied';
import { listsOf, Packed, type Lists } from './packed';
import { fewListed, markListed, type Listed } from './postings';
import { put, told, type Whole } from './sums';
import { Tally } from './tally';

/**
 * Many codes for each item, and many items for each code, as arrays. What changed since they were built lies over
 * them, until there is so much of it that they are built anew.
 */
export class ManyColumn {
  #packed = Packed.NONE;
  /** What the lists leave out because it follows from what they tell. */
  #implied: Implied | null = null;
  /** The lists are told as shortly as they can be from now on. */
  #isPrepared = false;
  /** Items by code; built when first asked for. */
  #back: Listed | null = null;
  #lists: { of: Uint16Array; lists: Uint32Array[] } | null = null;
  readonly #changed = new Map<number, Uint32Array>();
  #most = 0;
  #tally = new Tally();
  /** Items that have any. */
  #having = 0;

  /** @param isTree codes follow from others, and their order tells nothing */
  constructor(readonly isTree = false) {}

  /** Codes of an item. */
  get(row: number): List {
    return this.#changed.get(row) ?? this.#before(row);
  }
  #before(row: number): List {
    const told = this.#told(row);
    return this.#implied ? this.#implied.whole(told) : told;
  }
  /** What the arrays tell of an item. */
  #told(row: number): List {
    return row < this.#packed.rows && !this.#packed.isEmpty(row) ? this.#packed.listOf(row) : NONE;
  }

  set(row: number, codes: ArrayLike<number>): void {
    // Most items say nothing in most fields, and most of what is put in anew was there.
    const before = this.get(row);
    if (isSame(before, codes)) return;
    const own = Uint32Array.from(codes);
    if (this.isTree && isSame(Uint32Array.from(before).sort(), own.slice().sort())) return;
    for (const code of before) this.#tally.take(code);
    for (const code of own) {
      this.#tally.add(code);
      if (code > this.#most) this.#most = code;
    }
    this.#having += (own.length > 0 ? 1 : 0) - (before.length > 0 ? 1 : 0);
    this.#changed.set(row, own);
  }

  /** Take what changed into the arrays, where that is much. */
  settle(atLeast = 20_000): void {
    if (this.#changed.size < atLeast) return;
    let { rows } = this.#packed;
    for (const row of this.#changed.keys()) if (row >= rows) rows = row + 1;
    if (!this.#settleShort(rows)) {
      const size = this.#most + 1;
      this.#packed = Packed.of(
        listsOf(rows, (row) => this.get(row), size),
        size,
      );
      this.#implied = null;
      if (this.#isPrepared) this.#shorten();
    }
    this.#changed.clear();
    this.#back = null;
  }
  /** Take what changed in as what follows from what was learnt. @returns false where it does not */
  #settleShort(rows: number): boolean {
    const implied = this.#implied;
    if (!implied) return false;
    const changed = new Map<number, number[]>();
    for (const [row, own] of this.#changed) {
      const short = implied.short(own);
      if (!short) return false;
      changed.set(row, short);
    }
    const listOf = (row: number): ArrayLike<number> => changed.get(row) ?? this.#told(row);
    const lists = listsOf(rows, listOf, implied.size);
    this.#packed = Packed.of(lists, implied.size);
    return true;
  }
  /** Tell the lists as shortly as they can be. */
  #shorten(): void {
    this.#lists = this.#fewLists();
    if (this.#lists || !this.isTree) return;
    const short = shortened(this.#packed.lists(), this.#most + 1);
    if (!short) return;
    this.#packed = Packed.of(short, short.implied.size);
    this.#implied = short.implied;
  }

  /**
   * Where items say few different lists, as creators, the list of each item by its number: lists are counted, then what
   * they hold. Null where there are many.
   */
  #fewLists(): { of: Uint16Array; lists: Uint32Array[] } | null {
    const of = shared(Uint16Array, this.#packed.rows);
    const lists = [NONE];
    const known = new Map<string, number>();
    for (let row = 0; row < of.length; row += 1) {
      if (this.#packed.isEmpty(row)) continue;
      const codes = this.#packed.listOf(row);
      const key = codes.length === 1 ? String(codes[0]) : codes.join();
      let list = known.get(key);
      if (list === undefined) {
        if (lists.length === MOST_LISTS) return null;
        list = lists.push(Uint32Array.from(codes)) - 1;
        known.set(key, list);
      }
      of[row] = list;
    }
    return { of, lists };
  }

  /** Items by what their lists tell. */
  #turned(): Listed {
    if (this.#back) return this.#back;
    const codes = this.#implied?.above.length ?? this.#most + 1;
    const offsets = new Uint32Array(codes + 1);
    const lists = this.#packed.lists();
    // Where ways meet, no item is found by it.
    for (let at = 0; at < lists.codes.length; at += 1)
      if (lists.codes[at]! < codes) offsets[lists.codes[at]! + 1]! += 1;
    for (let code = 0; code < codes; code += 1) offsets[code + 1]! += offsets[code]!;
    const next = offsets.slice();
    const rows = new Uint32Array(offsets[codes]!);
    for (let row = 0; row + 1 < lists.offsets.length; row += 1)
      for (let at = lists.offsets[row]!; at < lists.offsets[row + 1]!; at += 1)
        if (lists.codes[at]! < codes) rows[next[lists.codes[at]!]!++] = row;
    this.#back = { offsets, rows };
    return this.#back;
  }

  /** Make ready what is made when first asked for. */
  prepare(): void {
    this.#isPrepared = true;
    if (!this.#implied) this.#shorten();
    this.#turned();
  }

  /** Items that have one of some codes, where these are few. */
  few(codes: readonly number[]): number[] | null {
    return fewListed(this.#turned(), this.#changed, codes, this.#implied?.withBelow(codes));
  }
  /** Mark every item that has one of some codes. */
  mark(codes: Iterable<number>, out: Bits): void {
    const wished = new Set(codes);
    markListed(this.#turned(), this.#changed, wished, out, this.#implied?.withBelow(wished));
  }

  /** Mark every item that has any. */
  markAny(out: Bits): void {
    const packed = this.#packed;
    for (let row = 0; row < packed.rows; row += 1)
      if (!packed.isEmpty(row)) out[row >>> 5]! |= 1 << (row & 31);
    for (const [row, own] of this.#changed) say(out, row, own.length > 0);
  }

  /** How many of all items have each code, and how many none. @param total items there are */
  whole(total: number): Whole {
    return { sums: this.#tally.sums(this.#most + 1), lacking: total - this.#having };
  }

  /** What is counted to tell how many of some items have each code: {@link told} tells it. */
  counting(): Count | null {
    if (this.#having === 0) return null;
    if (this.#lists) {
      const { of, lists } = this.#lists;
      return { how: 'codes', codes: of, size: lists.length };
    }
    return this.#counting();
  }
  #counting(): Count {
    const implied = this.#implied;
    const { slots, width, more, size } = this.#packed;
    const lists = { how: 'lists' as const, slots, width, more, size };
    return implied ? { ...lists, follows: implied.follows } : lists;
  }

  /** Whether what is counted needs nothing more to be told: then the largest sums are those counted. */
  get isToldAsCounted(): boolean {
    return !this.#lists && this.#changed.size === 0;
  }

  /** How many of some items have each code, from what was counted. */
  told(sums: Sums, isAmong: (row: number) => boolean): Sums {
    const counted = this.#lists ? this.#unlisted(sums) : sums;
    if (this.#changed.size === 0) return counted;
    // What was counted is what items had when the arrays were made.
    const now = new Uint32Array(this.#most + 1);
    for (let at = 0; at < counted.codes.length; at += 1)
      now[counted.codes[at]!] = counted.counts[at]!;
    let { lacking } = counted;
    for (const [row, own] of this.#changed) {
      if (!isAmong(row)) continue;
      const before = this.#before(row);
      for (const code of before) now[code]! -= 1;
      for (const code of own) now[code]! += 1;
      lacking += (own.length === 0 ? 1 : 0) - (before.length === 0 ? 1 : 0);
    }
    return { ...told(now), lacking };
  }
  #unlisted({ codes: lists, counts, lacking }: Sums): Sums {
    const found = put(this.#most + 1, (sums) => {
      for (let at = 0; at < lists.length; at += 1)
        for (const code of this.#lists!.lists[lists[at]!]!) sums[code]! += counts[at]!;
    });
    return { codes: found.codes, counts: found.counts, lacking };
  }
  get most(): number {
    return this.#most;
  }

  static from(plain: ManyPlain, isTree = false): ManyColumn {
    const column = new ManyColumn(isTree);
    column.#most = plain.most;
    column.#implied = plain.implied ? Implied.from(plain.implied) : null;
    const size = column.#implied?.size ?? plain.most + 1;
    column.#packed = Packed.of(plain, size);
    const rows = Uint32Array.from({ length: column.#packed.rows }, (_, row) => row);
    const sums = countOver(rows, column.#counting());
    column.#tally = Tally.from(sums);
    column.#having = rows.length - sums.lacking;
    return column;
  }
  toPlain(): ManyPlain {
    this.settle(1);
    return {
      ...this.#packed.lists(),
      most: this.#most,
      implied: this.#implied?.toPlain() ?? null,
    };
  }
}

/** What a column is saved as. */
interface ManyPlain extends Lists {
  most: number;
  implied: ImpliedPlain | null;
}

type List = Uint32Array | readonly number[];
const NONE = new Uint32Array(0);
function isSame(a: ArrayLike<number>, b: ArrayLike<number>): boolean {
  let at = 0;
  while (at < a.length && a[at] === b[at]) at += 1;
  return at === a.length && at === b.length;
}
/** Different lists that are few. */
const MOST_LISTS = 4096;
