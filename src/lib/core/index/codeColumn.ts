import { grown, resized, shared, type Codes } from './arrays';
import { markWhere, type Bits } from './bits';
import type { Count } from './counting';
import { listed, MOST_FEW, type Listed } from './postings';
import { Tally } from './tally';
import { Texts, type PlainTexts } from './texts';

/**
 * Values of a field that has one for each item, told by a code, by the item's small integer. Code 0 says nothing. Rows
 * beyond what a column holds read as 0; columns grow as items come.
 */
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
    this.each(found.hits, (row) => {
      if (table[this.codes[row]!] === 1 || holds(row)) out[row >>> 5]! |= 1 << (row & 31);
    });
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

/** Items are few where there are as many times more. */
const FEW = 16;
/** Where a column tells no more codes than these, it is looked through: what holds for one of them holds for many. */
const MOST_SCANNED = 64;
/** Codes that may change before items are listed anew. */
const MOST_SINCE = 20_000;
