/**
 * Columns of the index: one value for each item, by the item's small integer. Code 0 says nothing. Rows beyond what a
 * column holds read as 0; columns grow as items come.
 */
type Codes = Uint8Array | Uint16Array | Uint32Array;

const grown = (size: number, wished: number): number =>
  Math.max(wished, Math.ceil(size * 1.25), 1024);

/** A larger array with the same beginning. */
function enlarged<T extends Codes | Float64Array>(from: T, size: number): T {
  const next = new (from.constructor as new (length: number) => T)(size);
  next.set(from as never);
  return next;
}

/** How many items have each code, kept up while they change. */
class Tally {
  #counts = new Uint32Array(16);
  /** Codes that any item has. */
  used = 0;

  add(code: number): void {
    if (code >= this.#counts.length)
      this.#counts = enlarged(this.#counts, grown(this.#counts.length, code + 1));
    if (this.#counts[code] === 0) this.used += 1;
    this.#counts[code]! += 1;
  }
  take(code: number): void {
    this.#counts[code]! -= 1;
    if (this.#counts[code] === 0) this.used -= 1;
  }
  /** Counts of the first codes. */
  sums(codes: number): Uint32Array {
    const sums = new Uint32Array(codes);
    sums.set(this.#counts.subarray(0, codes));
    return sums;
  }
}

/** Values of a field that has one for each item, told by a code. */
export class CodeColumn<V extends string | number = string | number> {
  codes: Codes = new Uint8Array(0);
  /** Value of each code; the first is the lack of one. */
  values: (V | null)[] = [null];
  #codeOf = new Map<V, number>();
  #tally = new Tally();

  /** @param plain every item has a value of its own: equal ones are not looked up */
  constructor(readonly plain = false) {}

  codeOf(value: V): number {
    return this.#codeOf.get(value) ?? 0;
  }

  set(row: number, value: V | null): void {
    if (row >= this.codes.length)
      this.codes = enlarged(this.codes, grown(this.codes.length, row + 1));
    const before = this.codes[row]!;
    if (this.plain && value !== null && before !== 0) {
      this.values[before] = value;
      return;
    }
    const code = value === null ? 0 : this.#code(value);
    if (code > 255 && this.codes instanceof Uint8Array) this.codes = Uint16Array.from(this.codes);
    if (code > 65_535 && this.codes instanceof Uint16Array)
      this.codes = Uint32Array.from(this.codes);
    if (code === before) return;
    this.codes[row] = code;
    if (before !== 0) this.#tally.take(before);
    if (code !== 0) this.#tally.add(code);
  }
  #code(value: V): number {
    const known = this.plain ? undefined : this.#codeOf.get(value);
    if (known !== undefined) return known;
    const code = this.values.push(value) - 1;
    if (!this.plain) this.#codeOf.set(value, code);
    return code;
  }

  get(row: number): V | null {
    return this.values[this.codes[row] ?? 0] ?? null;
  }

  /** How many of all items have each code, and how many none. @param total items there are */
  whole(total: number): Uint32Array {
    const sums = this.#tally.sums(this.values.length);
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

  /** How many of some items, in the order of their small integers, have each code. @param total items there are */
  count(rows: Uint32Array, total: number): Uint32Array {
    const { codes } = this;
    const sums = new Uint32Array(this.values.length);
    const same = this.same(total);
    if (same >= 0) {
      sums[same] = rows.length;
      return sums;
    }
    // Items beyond the column say nothing. Loops by number: iterators take ten times as long.
    let within = rows.length;
    while (within > 0 && rows[within - 1]! >= codes.length) within -= 1;
    for (let at = 0; at < within; at += 1) sums[codes[rows[at]!]!]! += 1;
    sums[0]! += rows.length - within;
    return sums;
  }

  /** Which codes a test holds for. */
  lookUp(holds: (value: V) => boolean): Uint8Array {
    const table = new Uint8Array(this.values.length);
    for (let code = 1; code < table.length; code += 1) {
      const value = this.values[code];
      if (value !== null && value !== undefined && holds(value)) table[code] = 1;
    }
    return table;
  }

  /** Restore what {@link toPlain} gave. */
  static from<V extends string | number>(plain: {
    codes: Codes;
    values: (V | null)[];
    plain: boolean;
  }): CodeColumn<V> {
    const column = new CodeColumn<V>(plain.plain);
    column.codes = plain.codes;
    column.values = plain.values;
    if (!plain.plain)
      plain.values.forEach((value, code) => value !== null && column.#codeOf.set(value, code));
    for (let row = 0; row < plain.codes.length; row += 1)
      if (plain.codes[row] !== 0) column.#tally.add(plain.codes[row]!);
    return column;
  }
  toPlain(): { codes: Codes; values: (V | null)[]; plain: boolean } {
    return { codes: this.codes, values: this.values, plain: this.plain };
  }
}

/** A number for each item, all of them different; not a number where unknown. */
export class NumberColumn {
  values = new Float64Array(0);

  set(row: number, value: number | null): void {
    if (row >= this.values.length) {
      const from = this.values.length;
      this.values = enlarged(this.values, grown(from, row + 1)).fill(NaN, from);
    }
    this.values[row] = value ?? NaN;
  }
}

/** Two numbers for each item, not a number where unknown: ends of a time in ms, or a position. */
export class PairColumn {
  first = new Float64Array(0);
  second = new Float64Array(0);

  set(row: number, first: number | null, second: number | null): void {
    if (row >= this.first.length) {
      const size = grown(this.first.length, row + 1);
      const from = this.first.length;
      this.first = enlarged(this.first, size).fill(NaN, from);
      this.second = enlarged(this.second, size).fill(NaN, from);
    }
    this.first[row] = first ?? NaN;
    this.second[row] = second ?? NaN;
  }
}

/**
 * Many codes for each item, and many items for each code, as arrays of offsets. What changed since they were built
 * lies over them, until there is so much of it that they are built anew.
 */
export class ManyColumn {
  #offsets: Uint32Array = new Uint32Array(1);
  #codes: Uint32Array = new Uint32Array(0);
  /** Items by code; built when first asked for. */
  #back: { offsets: Uint32Array; rows: Uint32Array } | null = null;
  readonly #changed = new Map<number, Uint32Array>();
  #most = 0;
  #tally = new Tally();
  /** Items that have any. */
  #having = 0;

  /** Codes of an item. */
  get(row: number): Uint32Array {
    return (
      this.#changed.get(row) ??
      (row + 1 < this.#offsets.length
        ? this.#codes.subarray(this.#offsets[row]!, this.#offsets[row + 1]!)
        : NONE)
    );
  }

  set(row: number, codes: ArrayLike<number>): void {
    // Most items say nothing in most fields.
    const before = this.get(row);
    if (codes.length === 0 && before.length === 0) return;
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
    const offsets = new Uint32Array(rows + 1);
    for (let row = 0; row < rows; row += 1) offsets[row + 1] = offsets[row]! + this.get(row).length;
    const codes = new Uint32Array(offsets[rows]!);
    for (let row = 0; row < rows; row += 1) codes.set(this.get(row), offsets[row]);
    this.#offsets = offsets;
    this.#codes = codes;
    this.#changed.clear();
    this.#back = null;
  }

  #turned(): { offsets: Uint32Array; rows: Uint32Array } {
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
  }

  /** Mark every item that has one of some codes. */
  mark(codes: Iterable<number>, out: Uint8Array): void {
    const { offsets, rows } = this.#turned();
    const wished = new Set(codes);
    for (const code of wished) {
      if (code + 1 >= offsets.length) continue;
      for (let i = offsets[code]!; i < offsets[code + 1]!; i += 1) out[rows[i]!] = 1;
    }
    for (const [row, own] of this.#changed) out[row] = own.some((code) => wished.has(code)) ? 1 : 0;
  }

  /** Mark every item that has any. */
  markAny(out: Uint8Array): void {
    const rows = Math.min(out.length, this.#offsets.length - 1);
    for (let row = 0; row < rows; row += 1)
      out[row] = this.#offsets[row + 1]! > this.#offsets[row]! ? 1 : 0;
    for (const [row, own] of this.#changed) out[row] = own.length > 0 ? 1 : 0;
  }

  /** How many of all items have each code, and how many none. @param total items there are */
  whole(total: number): { sums: Uint32Array; lacking: number } {
    return { sums: this.#tally.sums(this.#most + 1), lacking: total - this.#having };
  }

  /** Count the codes of some items. @returns how many have none */
  count(rows: ArrayLike<number>, counts: Uint32Array): number {
    if (this.#having === 0) return rows.length;
    let none = 0;
    const offsets = this.#offsets;
    const codes = this.#codes;
    const changed = this.#changed;
    const plain = changed.size === 0;
    for (let at = 0; at < rows.length; at += 1) {
      const row = rows[at]!;
      if (plain || !changed.has(row)) {
        const end = row + 1 < offsets.length ? offsets[row + 1]! : 0;
        const from = end > 0 ? offsets[row]! : 0;
        if (from === end) none += 1;
        for (let i = from; i < end; i += 1) counts[codes[i]!]! += 1;
      } else {
        const own = changed.get(row)!;
        if (own.length === 0) none += 1;
        for (const code of own) counts[code]! += 1;
      }
    }
    return none;
  }
  get most(): number {
    return this.#most;
  }

  static from(plain: { offsets: Uint32Array; codes: Uint32Array; most: number }): ManyColumn {
    const column = new ManyColumn();
    column.#offsets = plain.offsets;
    column.#codes = plain.codes;
    column.#most = plain.most;
    for (let at = 0; at < plain.codes.length; at += 1) column.#tally.add(plain.codes[at]!);
    for (let row = 0; row + 1 < plain.offsets.length; row += 1)
      if (plain.offsets[row + 1]! > plain.offsets[row]!) column.#having += 1;
    return column;
  }
  toPlain(): { offsets: Uint32Array; codes: Uint32Array; most: number } {
    this.settle(1);
    return { offsets: this.#offsets, codes: this.#codes, most: this.#most };
  }
}

const NONE = new Uint32Array(0);

/**
 * Names of codes: words, persons, ids. Once prepared, those there are found by halving their order, which takes no
 * memory but the order's; names that come later are looked up by themselves.
 */
export class Dictionary {
  readonly names: string[] = [];
  /** Codes of the first names, in the order of those. */
  #sorted = new Uint32Array(0);
  readonly #later = new Map<string, number>();

  constructor(names: string[] = []) {
    this.names = names;
    this.prepare();
  }
  code(name: string): number {
    const known = this.codeOf(name);
    if (known !== undefined) return known;
    const code = this.names.push(name) - 1;
    this.#later.set(name, code);
    return code;
  }
  codeOf(name: string): number | undefined {
    const at = this.#place(name);
    const code = this.#sorted[at];
    return code !== undefined && this.names[code] === name ? code : this.#later.get(name);
  }
  /** Put all names in order. */
  prepare(): void {
    const { names } = this;
    if (names.length === this.#sorted.length) return;
    this.#sorted = Uint32Array.from(names.keys()).sort((a, b) => (names[a]! < names[b]! ? -1 : 1));
    this.#later.clear();
  }

  /** Where the first name stands that is not less. */
  #place(wished: string): number {
    const { names } = this;
    const sorted = this.#sorted;
    let low = 0;
    let high = sorted.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (names[sorted[middle]!]! < wished) low = middle + 1;
      else high = middle;
    }
    return low;
  }

  /** Codes of all names that begin so. */
  beginning(prefix: string): number[] {
    const { names } = this;
    if (this.#later.size > MOST_UNSORTED) this.prepare();
    const sorted = this.#sorted;
    const found: number[] = [];
    for (
      let at = this.#place(prefix);
      at < sorted.length && names[sorted[at]!]!.startsWith(prefix);
      at += 1
    )
      found.push(sorted[at]!);
    // Names that came since stand at the end: few enough to be looked through.
    for (let code = sorted.length; code < names.length; code += 1)
      if (names[code]!.startsWith(prefix)) found.push(code);
    return found;
  }
}

/** Names that are looked through one by one before all are sorted anew. */
const MOST_UNSORTED = 2000;

/** Ids (16 bytes each, in a row) → the row they stand in: open addressing over the ids themselves. */
export class IdTable {
  #rows = new Uint32Array(1 << 11);
  #count = 0;

  /** @param at the id of a row, as it stands in the index */
  constructor(readonly at: (row: number) => Uint8Array) {}

  #slot(id: Uint8Array): number {
    const mask = this.#rows.length - 1;
    // UUIDv7 begin with the time: their last bytes are the random ones.
    let slot =
      ((id[15]! << 24) ^ (id[14]! << 16) ^ (id[13]! << 8) ^ id[12]! ^ (id[11]! << 5)) & mask;
    for (;;) {
      const row = this.#rows[slot]!;
      if (row === 0 || isSameId(this.at(row), id)) return slot;
      slot = (slot + 1) & mask;
    }
  }
  get(id: Uint8Array): number | undefined {
    return this.#rows[this.#slot(id)] || undefined;
  }
  add(row: number): void {
    const slot = this.#slot(this.at(row));
    if (this.#rows[slot] === 0) this.#count += 1;
    this.#rows[slot] = row;
    if (this.#count * 2 < this.#rows.length) return;
    const old = this.#rows;
    this.#rows = new Uint32Array(old.length * 2);
    for (const one of old) if (one !== 0) this.#rows[this.#slot(this.at(one))] = one;
  }
}

function isSameId(a: Uint8Array, b: Uint8Array): boolean {
  for (let at = 15; at >= 0; at -= 1) if (a[at] !== b[at]) return false;
  return true;
}
