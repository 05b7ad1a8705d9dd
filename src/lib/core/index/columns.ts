import { BARS, bins } from '../choices/shown';
import { resized, shared, type Codes } from './arrays';
import { markWhere, say, type Bits } from './bits';
import { NOTHING, type Count, type Sums } from './counting';
import type { ItemSet } from './itemSet';
import { fewListed, listed, markListed, MOST_FEW, type Listed } from './postings';
import { Texts, type PlainTexts } from './texts';

/**
 * Columns of the index: one value for each item, by the item's small integer. Code 0 says nothing. Rows beyond what a
 * column holds read as 0; columns grow as items come.
 */
const grown = (size: number, wished: number): number =>
  Math.max(wished, Math.ceil(size * 1.25), 1024);

/** How many items have each code, kept up while they change. */
class Tally {
  #counts = new Uint32Array(16);
  /** Codes that any item has. */
  used = 0;

  add(code: number): void {
    if (code >= this.#counts.length)
      this.#counts = resized(this.#counts, grown(this.#counts.length, code + 1));
    if (this.#counts[code] === 0) this.used += 1;
    this.#counts[code]! += 1;
  }
  take(code: number): void {
    this.#counts[code]! -= 1;
    if (this.#counts[code] === 0) this.used -= 1;
  }
  of(code: number): number {
    return this.#counts[code] ?? 0;
  }
  /** Counts of the first codes. */
  sums(codes: number): Uint32Array {
    const sums = new Uint32Array(codes);
    sums.set(this.#counts.subarray(0, codes));
    return sums;
  }
}

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

/** Values of a field that has one for each item, told by a code. */
export class CodeColumn<V extends string | number = string | number> {
  codes: Codes = shared(Uint8Array, 0);
  /** Value of each code; the first is the lack of one. */
  #values: (V | null)[] = [null];
  /** In place of these where every item has a text of its own: equal ones are not looked up. */
  #texts: Texts | null;
  #codeOf = new Map<V, number>();
  #tally = new Tally();

  constructor(plain = false) {
    this.#texts = plain ? Texts.of(['']) : null;
  }

  /** Codes there are, that of the lack of a value among them. */
  get size(): number {
    return this.#texts ? this.#texts.length : this.#values.length;
  }
  /** What a code stands for. */
  value(code: number): V | null {
    if (!this.#texts) return this.#values[code] ?? null;
    return code === 0 ? null : (this.#texts.at(code) as V);
  }

  codeOf(value: V): number {
    return this.#codeOf.get(value) ?? 0;
  }

  set(row: number, value: V | null): void {
    if (row >= this.codes.length) {
      // What says nothing takes no room.
      if (value === null) return;
      this.codes = resized(this.codes, grown(this.codes.length, row + 1));
    }
    const before = this.codes[row]!;
    if (this.#texts && value !== null && before !== 0) {
      this.#texts.set(before, String(value));
      return;
    }
    const code = value === null ? 0 : this.#code(value);
    if (code > 255 && this.codes instanceof Uint8Array) this.#widen(Uint16Array);
    if (code > 65_535 && this.codes instanceof Uint16Array) this.#widen(Uint32Array);
    if (code === before) return;
    this.codes[row] = code;
    this.#noteListed(row, code);
    if (before !== 0) this.#tally.take(before);
    if (code !== 0) this.#tally.add(code);
  }
  #widen(kind: Uint16ArrayConstructor | Uint32ArrayConstructor): void {
    const wider = shared<Uint16Array | Uint32Array>(kind, this.codes.length);
    wider.set(this.codes);
    this.codes = wider;
  }
  #code(value: V): number {
    if (this.#texts) return this.#texts.push(String(value));
    const known = this.#codeOf.get(value);
    if (known !== undefined) return known;
    const code = this.#values.push(value) - 1;
    this.#codeOf.set(value, code);
    return code;
  }

  get(row: number): V | null {
    return this.value(this.codeAt(row));
  }
  codeAt(row: number): number {
    return this.codes[row] ?? 0;
  }

  /** How many of all items have each code, and how many none. @param total items there are */
  whole(total: number): Uint32Array {
    const sums = this.#tally.sums(this.size);
    let said = 0;
    for (let code = 1; code < sums.length; code += 1) said += sums[code]!;
    sums[0] = total - said;
    return sums;
  }
  /** The one code that all items have, −1 where they differ. @param total items there are */
  same(total: number): number {
    if (this.#tally.used === 0) return 0;
    if (this.#tally.used > 1) return -1;
    const whole = this.whole(total);
    return whole[0] === 0 ? whole.findIndex((sum) => sum > 0) : -1;
  }

  /** What is counted to tell how many of some items have each code. */
  counting(): Count {
    return { how: 'codes', codes: this.codes, size: this.size };
  }

  /** Items by code, and what codes items have got since; made when few of many are asked for. */
  #listed: { lists: Listed; since: Map<number, number> } | null = null;

  #noteListed(row: number, code: number): void {
    if (this.#listed && this.#listed.since.set(row, code).size > MOST_SINCE) this.#listed = null;
  }

  /** Codes a table says yes or perhaps to, where these are better looked up in lists. */
  #hits(table: Uint8Array): { hits: number[]; marked: number } | null {
    if (table[0] !== 0 || this.#tally.used <= MOST_SCANNED) return null;
    const hits: number[] = [];
    let marked = 0;
    for (let code = 1; code < table.length; code += 1)
      if (table[code] !== 0) {
        hits.push(code);
        marked += this.#tally.of(code);
      }
    return marked * FEW < this.codes.length ? { hits, marked } : null;
  }
  #lists(): { lists: Listed; since: Map<number, number> } {
    return (this.#listed ??= { lists: listed(this.codes, this.size), since: new Map() });
  }

  /** Every item that has one of some codes, each once. */
  each(codes: readonly number[], act: (row: number) => void): void {
    const {
      lists: { offsets, rows },
      since,
    } = this.#lists();
    for (const code of codes)
      if (code + 1 < offsets.length)
        for (let at = offsets[code]!; at < offsets[code + 1]!; at += 1)
          if (since.size === 0 || !since.has(rows[at]!)) act(rows[at]!);
    if (since.size === 0) return;
    const wished = new Set(codes);
    for (const [row, code] of since) if (wished.has(code)) act(row);
  }

  /**
   * Items whose code a table says yes to, and of those it says perhaps to, those that hold, where these are few.
   * @param table 1 yes, 2 perhaps, by code
   */
  few(table: Uint8Array, holds: (row: number) => boolean = () => false): number[] | null {
    const found = this.#hits(table);
    if (!found || found.marked > MOST_FEW) return null;
    const few: number[] = [];
    this.each(found.hits, (row) => {
      if (table[this.codes[row]!] === 1 || holds(row)) few.push(row);
    });
    return few;
  }

  /** Mark all of these. @param table 1 yes, 2 perhaps, by code */
  mark(table: Uint8Array, out: Bits, holds: (row: number) => boolean = () => false): void {
    const found = this.#hits(table);
    if (!found) return markWhere(this.codes, table, holds, out);
    const {
      lists: { offsets, rows },
      since,
    } = this.#lists();
    for (const code of found.hits) {
      if (code + 1 >= offsets.length) continue;
      for (let at = offsets[code]!; at < offsets[code + 1]!; at += 1) {
        const row = rows[at]!;
        if (table[code] === 1 || holds(row)) out[row >>> 5]! |= 1 << (row & 31);
      }
    }
    for (const [row, code] of since)
      say(out, row, table[code] === 1 || (table[code] === 2 && holds(row)));
  }

  /** Which codes a test holds for. */
  lookUp(holds: (value: V) => boolean): Uint8Array {
    const table = new Uint8Array(this.size);
    for (let code = 1; code < table.length; code += 1) {
      const value = this.value(code);
      if (value !== null && holds(value)) table[code] = 1;
    }
    return table;
  }

  /** Restore what {@link toPlain} gave. */
  static from<V extends string | number>(plain: PlainCodes<V>): CodeColumn<V> {
    const column = new CodeColumn<V>();
    column.codes = plain.codes;
    if ('texts' in plain) column.#texts = Texts.from(plain.texts);
    else {
      column.#values = plain.values;
      plain.values.forEach((value, code) => value !== null && column.#codeOf.set(value, code));
    }
    for (let row = 0; row < plain.codes.length; row += 1)
      if (plain.codes[row] !== 0) column.#tally.add(plain.codes[row]!);
    return column;
  }
  toPlain(): PlainCodes<V> {
    const { codes } = this;
    return this.#texts ? { codes, texts: this.#texts.toPlain() } : { codes, values: this.#values };
  }
}
type PlainCodes<V> = { codes: Codes } & ({ values: (V | null)[] } | { texts: PlainTexts });

/**
 * A number for each item, all of them different; not a number where unknown. Each has a step, of some thousand that rise
 * with them: how many lie in a step is counted as the codes of any field are.
 */
export class NumberColumn {
  values: Float64Array;
  /** Numbers between which steps lie, ascending. */
  #edges: Float64Array = new Float64Array(0);
  /** How many edges are not above an item's number. */
  steps = new CodeColumn<number>();

  constructor(values: Float64Array = shared(Float64Array, 0)) {
    this.values = values;
    this.prepare();
  }

  set(row: number, value: number | null): void {
    if (row >= this.values.length) {
      const from = this.values.length;
      this.values = resized(this.values, grown(from, row + 1)).fill(NaN, from);
    }
    this.values[row] = value ?? NaN;
    this.steps.set(row, value === null ? null : this.#stepOf(value));
  }
  #stepOf(value: number): number {
    let [low, high] = [0, this.#edges.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (this.#edges[middle]! <= value) low = middle + 1;
      else high = middle;
    }
    return low;
  }

  /** Lay steps so that about as many items lie in each. */
  prepare(): void {
    const { values } = this;
    const some: number[] = [];
    const stride = Math.max(1, Math.floor(values.length / MOST_ASKED));
    for (let row = 0; row < values.length; row += stride)
      if (values[row] === values[row]) some.push(values[row]!);
    const sorted = Float64Array.from(some).sort();
    const apart = Math.max(1, Math.floor(sorted.length / MOST_STEPS));
    this.#edges = Float64Array.from(new Set(sorted.filter((_, at) => at % apart === 0)));
    this.steps = new CodeColumn<number>();
    for (let row = 0; row < values.length; row += 1)
      if (values[row] === values[row]) this.steps.set(row, this.#stepOf(values[row]!));
  }

  /**
   * How the numbers of some items are spread over bars, from how many lie in each step: the numbers themselves are
   * looked at only in steps at both ends and where bars meet.
   */
  spread({ codes, counts, lacking }: Sums, some: ItemSet): Sums {
    const edges = this.#edges;
    const told = new Uint32Array(edges.length + 1);
    let [least, most] = [Infinity, -Infinity];
    for (let at = 0; at < codes.length; at += 1) {
      const step = this.steps.value(codes[at]!);
      if (step === null || counts[at] === 0) continue;
      told[step] = counts[at]!;
      if (step < least) least = step;
      if (step > most) most = step;
    }
    const span = { from: Infinity, to: -Infinity };
    if (least > most) return { ...NOTHING, lacking, span };
    const { values } = this;
    const each = (steps: readonly number[], act: (value: number) => void): void => {
      const asked = steps.map((step) => this.steps.codeOf(step));
      if (!some.few)
        return this.steps.each(asked, (row) => {
          if (some.has(row)) act(values[row]!);
        });
      const isAsked = new Set(asked);
      for (const row of some.few) if (isAsked.has(this.steps.codeAt(row))) act(values[row]!);
    };
    const asked = least === most ? [least] : [least, most];
    each(asked, (value) => {
      if (value < span.from) span.from = value;
      if (value > span.to) span.to = value;
    });
    const binOf = bins(span.from, span.to);
    const bars = new Uint32Array(BARS);
    let bar = least < most ? binOf(edges[least]!) : 0;
    for (let step = least + 1; step < most; step += 1) {
      const next = binOf(edges[step]!);
      // What lies between two edges whole belongs to one bar.
      if (next === bar) bars[bar]! += told[step]!;
      else if (told[step]! > 0) asked.push(step);
      bar = next;
    }
    each(asked, (value) => (bars[binOf(value)]! += 1));
    return { codes: Uint32Array.from(bars.keys()), counts: bars, lacking, span };
  }
}

/** Two numbers for each item, not a number where unknown: ends of a time in ms, or a position. */
export class PairColumn {
  first: Float64Array = shared(Float64Array, 0);
  /** The same array as long as both numbers are the same of every item. */
  second = this.first;

  /** @returns whether it is another than before */
  set(row: number, first: number | null, second: number | null): boolean {
    const [from, to] = [first ?? NaN, second ?? NaN];
    if (Object.is(this.first[row], from) && Object.is(this.second[row], to)) return false;
    const isOne = this.second === this.first;
    if (row >= this.first.length) {
      const size = grown(this.first.length, row + 1);
      const was = this.first.length;
      this.first = resized(this.first, size).fill(NaN, was);
      this.second = isOne ? this.first : resized(this.second, size).fill(NaN, was);
    }
    if (isOne && !Object.is(from, to)) this.second = resized(this.first, this.first.length);
    this.first[row] = from;
    this.second[row] = to;
    return true;
  }
}

/**
 * Many codes for each item, and many items for each code, as arrays of offsets. What changed since they were built
 * lies over them, until there is so much of it that they are built anew.
 */
export class ManyColumn {
  #offsets: Uint32Array = shared(Uint32Array, 1);
  #codes: Uint16Array | Uint32Array = shared(Uint16Array, 0);
  /** Items by code; built when first asked for. */
  #back: Listed | null = null;
  #lists: { of: Uint16Array; lists: Uint32Array[] } | null = null;
  readonly #changed = new Map<number, Uint32Array>();
  #most = 0;
  #tally = new Tally();
  /** Items that have any. */
  #having = 0;

  /** Codes of an item. */
  get(row: number): Uint16Array | Uint32Array {
    return this.#changed.get(row) ?? this.#before(row);
  }
  #before(row: number): Uint16Array | Uint32Array {
    return row + 1 < this.#offsets.length
      ? this.#codes.subarray(this.#offsets[row]!, this.#offsets[row + 1]!)
      : NONE;
  }

  set(row: number, codes: ArrayLike<number>): void {
    // Most items say nothing in most fields, and most of what is put in anew was there.
    const before = this.get(row);
    if (isSame(before, codes)) return;
    const own = Uint32Array.from(codes);
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
    let rows = this.#offsets.length - 1;
    for (const row of this.#changed.keys()) if (row >= rows) rows = row + 1;
    const offsets = shared(Uint32Array, rows + 1);
    for (let row = 0; row < rows; row += 1) offsets[row + 1] = offsets[row]! + this.get(row).length;
    const codes = shared<Uint16Array | Uint32Array>(
      this.#most < 65_536 ? Uint16Array : Uint32Array,
      offsets[rows]!,
    );
    for (let row = 0; row < rows; row += 1) codes.set(this.get(row), offsets[row]);
    this.#offsets = offsets;
    this.#codes = codes;
    this.#changed.clear();
    this.#back = null;
    if (this.#lists) this.#lists = this.#fewLists();
  }

  /**
   * Where items say few different lists, as creators, the list of each item by its number: lists are counted, then what
   * they hold. Null where there are many.
   */
  #fewLists(): { of: Uint16Array; lists: Uint32Array[] } | null {
    const offsets = this.#offsets;
    const of = shared(Uint16Array, offsets.length - 1);
    const lists = [NONE];
    const known = new Map<string, number>();
    for (let row = 0; row < of.length; row += 1) {
      if (offsets[row] === offsets[row + 1]) continue;
      const codes = this.#codes.subarray(offsets[row]!, offsets[row + 1]!);
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

  #turned(): Listed {
    if (this.#back) return this.#back;
    const offsets = new Uint32Array(this.#most + 2);
    for (let at = 0; at < this.#codes.length; at += 1) offsets[this.#codes[at]! + 1]! += 1;
    for (let code = 0; code <= this.#most; code += 1) offsets[code + 1]! += offsets[code]!;
    const at = offsets.slice();
    const rows = new Uint32Array(this.#codes.length);
    for (let row = 0; row + 1 < this.#offsets.length; row += 1)
      for (let i = this.#offsets[row]!; i < this.#offsets[row + 1]!; i += 1)
        rows[at[this.#codes[i]!]!++] = row;
    this.#back = { offsets, rows };
    return this.#back;
  }

  /** Make ready what is made when first asked for. */
  prepare(): void {
    this.#turned();
    this.#lists = this.#fewLists();
  }

  /** Items that have one of some codes, where these are few. */
  few(codes: readonly number[]): number[] | null {
    return fewListed(this.#turned(), this.#changed, codes);
  }
  /** Mark every item that has one of some codes. */
  mark(codes: Iterable<number>, out: Bits): void {
    markListed(this.#turned(), this.#changed, codes, out);
  }

  /** Mark every item that has any. */
  markAny(out: Bits): void {
    const offsets = this.#offsets;
    for (let row = 0; row + 1 < offsets.length; row += 1)
      if (offsets[row + 1]! > offsets[row]!) out[row >>> 5]! |= 1 << (row & 31);
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
    return { how: 'lists', offsets: this.#offsets, codes: this.#codes, size: this.#most + 1 };
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
    const sums = new Uint32Array(this.#most + 1);
    lists.forEach((list, at) => {
      for (const code of this.#lists!.lists[list]!) sums[code]! += counts[at]!;
    });
    return { ...told(sums), lacking };
  }
  get most(): number {
    return this.#most;
  }

  static from(plain: {
    offsets: Uint32Array;
    codes: Uint16Array | Uint32Array;
    most: number;
  }): ManyColumn {
    const column = new ManyColumn();
    column.#offsets = plain.offsets;
    column.#codes = plain.codes;
    column.#most = plain.most;
    for (let at = 0; at < plain.codes.length; at += 1) column.#tally.add(plain.codes[at]!);
    for (let row = 0; row + 1 < plain.offsets.length; row += 1)
      if (plain.offsets[row + 1]! > plain.offsets[row]!) column.#having += 1;
    return column;
  }
  toPlain(): { offsets: Uint32Array; codes: Uint16Array | Uint32Array; most: number } {
    this.settle(1);
    return { offsets: this.#offsets, codes: this.#codes, most: this.#most };
  }
}

const NONE = new Uint32Array(0);
function isSame(a: ArrayLike<number>, b: ArrayLike<number>): boolean {
  let at = 0;
  while (at < a.length && a[at] === b[at]) at += 1;
  return at === a.length && at === b.length;
}
/** Different lists that are few. */
const MOST_LISTS = 4096;
/** Steps of numbers, and numbers that are looked at to lay them. */
const MOST_STEPS = 4096;
const MOST_ASKED = 1 << 16;
/** Items are few where there are as many times more. */
const FEW = 16;
/** Where a column tells no more codes than these, it is looked through: what holds for one of them holds for many. */
const MOST_SCANNED = 64;
/** Codes that may change before items are listed anew. */
const MOST_SINCE = 20_000;
