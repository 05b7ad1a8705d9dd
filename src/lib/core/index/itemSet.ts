import { bitsOf, countOf, filled, isIn, rowsOf, type Bits } from './bits';

/** Some items, either way. */
export type Items = { bits: Bits; rows?: never } | { rows: Uint32Array; bits?: never };

/**
 * Memory in which rows are listed, one set after the other: very many rows made anew each time would be most of what the
 * engine has to collect.
 */
export class RowsLent {
  #memory = new Uint32Array(0);
  #rows: Uint32Array = this.#memory;
  #of: Bits | null = null;

  /** Good until the next are asked for. */
  rowsOf(bits: Bits, count: number): Uint32Array {
    if (this.#of === bits) return this.#rows;
    if (this.#memory.length < count) this.#memory = new Uint32Array(count * 1.5);
    this.#rows = rowsOf(bits, count, this.#memory.subarray(0, count));
    this.#of = bits;
    return this.#rows;
  }
}

/** A set of items: few as rows, many as bits, whose rows are listed when first asked for. Nobody changes either. */
export class ItemSet {
  readonly #bits: Bits | null;
  #rows: Uint32Array | null;
  #count: number | null;
  /** Its rows, where it was found as few. */
  readonly few: Uint32Array | null;

  constructor(
    { bits, rows }: Items,
    /** One more than the largest small integer. */
    readonly size: number,
  ) {
    this.#bits = bits ?? null;
    this.#rows = rows ?? null;
    this.few = rows ?? null;
    this.#count = rows?.length ?? null;
  }

  /** Of rows in any order, some of them more than once. */
  static of(rows: Iterable<number>, size: number): ItemSet {
    const sorted = Uint32Array.from(rows).sort();
    let count = 0;
    for (let at = 0; at < sorted.length; at += 1)
      if (at === 0 || sorted[at] !== sorted[at - 1]) sorted[count++] = sorted[at]!;
    return new ItemSet({ rows: sorted.subarray(0, count) }, size);
  }
  static none(size: number): ItemSet {
    return new ItemSet({ bits: filled(size, false) }, size);
  }

  get count(): number {
    return (this.#count ??= countOf(this.#bits!));
  }
  /** Of few they are made anew each time: they take more room than these. */
  get bits(): Bits {
    return this.#bits ?? bitsOf(this.#rows!, this.size);
  }
  /** Ascending. */
  get rows(): Uint32Array {
    return (this.#rows ??= rowsOf(this.#bits!, this.count));
  }
  /** Its rows for one who looks through them once: listed in lent memory where they are not listed yet. */
  rowsIn(lent: RowsLent): Uint32Array {
    return this.#rows ?? lent.rowsOf(this.#bits!, this.count);
  }
  /** Whichever is there and smaller. */
  get items(): Items {
    return this.#rows && (!this.#bits || this.count * 32 < this.size)
      ? { rows: this.#rows }
      : { bits: this.#bits! };
  }
  readonly has = (row: number): boolean => {
    if (this.#bits) return isIn(this.#bits, row);
    const rows = this.#rows!;
    let [low, high] = [0, rows.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (rows[middle]! < row) low = middle + 1;
      else high = middle;
    }
    return rows[low] === row;
  };
}
