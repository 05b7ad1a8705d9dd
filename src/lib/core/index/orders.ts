import { fieldOf } from '../fields/registry';
import type { ShelfIndex } from './shelfIndex';

/** Rows in an order that is kept up to date: ascending, unknown last, ties by catalogue number. */
interface Order {
  rows: Uint32Array;
  /** Rows whose place is to be found anew. */
  changed: Set<number>;
}

type Compare = (a: number, b: number) => number;

/** Positions of stages, by id; the order of what is told by reference. */
export type RankOf = (field: string) => ReadonlyMap<string | number, number> | null;

/** Orders of an index, each made when it is first asked for. */
export class Orders {
  readonly #kept = new Map<string, Order>();

  constructor(
    readonly index: ShelfIndex,
    readonly rankOf: RankOf,
  ) {
    index.onchange.add((row) => {
      for (const order of this.#kept.values()) order.changed.add(row);
    });
  }

  /** Orders that names decide are made anew. */
  forget(): void {
    this.#kept.clear();
  }

  #compare(by: string): Compare {
    const { index } = this;
    const { numberKeys } = index;
    const ties: Compare = (a, b) => numberKeys[a]! - numberKeys[b]!;
    const field = fieldOf(by);
    if (!field || by === 'number' || by === 'brought' || by === 'accession') return ties;
    const kept = index.kept(by);
    if (kept.as === 'pair') {
      const { first } = kept.column;
      return (a, b) => {
        const [x, y] = [first[a]!, first[b]!];
        if (x === y) return ties(a, b);
        if (x !== x) return y !== y ? ties(a, b) : 1;
        return y !== y || x < y ? -1 : 1;
      };
    }
    if (kept.as === 'many') return ties;
    const ranks = this.#ranks(by);
    const { codes } = kept.column;
    return (a, b) => ranks[codes[a]!]! - ranks[codes[b]!]! || ties(a, b);
  }

  /** Place of each code of a column among all, the lack of one last. */
  #ranks(by: string): Float64Array {
    const kept = this.index.kept(by);
    if (kept.as !== 'code') throw new TypeError(`“${by}” has no codes`);
    const { values } = kept.column;
    const given = this.rankOf(by);
    const sorted = values.map((_, code) => code).slice(1);
    const isNumber = typeof values[1] === 'number';
    const texts = given || isNumber ? [] : values.map((value) => String(value).toLowerCase());
    if (given)
      sorted.sort(
        (a, b) => (given.get(values[a]!) ?? Infinity) - (given.get(values[b]!) ?? Infinity),
      );
    else if (isNumber) sorted.sort((a, b) => (values[a] as number) - (values[b] as number));
    else if (texts.some((text) => /[\ud800-\udfff]/.test(text)))
      sorted.sort((a, b) => compareBytes(texts[a]!, texts[b]!));
    // Below the pairs, units compare as code points do, and much faster.
    else sorted.sort((a, b) => (texts[a]! < texts[b]! ? -1 : texts[a]! > texts[b]! ? 1 : 0));
    const ranks = new Float64Array(values.length).fill(Infinity);
    sorted.forEach((code, at) => {
      const before = sorted[at - 1];
      const isTie =
        before !== undefined &&
        !given &&
        (isNumber ? values[code] === values[before] : texts[code] === texts[before]);
      ranks[code] = isTie ? ranks[before]! : at;
    });
    // A finite last place: the difference of two infinities is no number.
    ranks[0] = values.length + 1;
    for (let code = 1; code < ranks.length; code += 1)
      if (ranks[code] === Infinity) ranks[code] = values.length;
    return ranks;
  }

  /** Whether an item says nothing in the field that orders. */
  #isUnknown(by: string): (row: number) => boolean {
    const field = fieldOf(by);
    if (!field || by === 'number' || by === 'brought' || by === 'accession') return () => false;
    const kept = this.index.kept(by);
    if (kept.as === 'pair') return (row) => kept.column.first[row] !== kept.column.first[row];
    return kept.as === 'code' ? (row) => kept.column.codes[row] === 0 : () => true;
  }

  /** All rows of items, ascending. */
  ascending(by: string): Uint32Array {
    const { index } = this;
    const known = this.#kept.get(by);
    if (known && known.changed.size === 0) return known.rows;
    const compare = this.#compare(by);
    if (!known || known.changed.size > index.total / 8) {
      const rows = new Uint32Array(index.total);
      let at = 0;
      for (let row = 0; row < index.size; row += 1) if (index.alive[row]) rows[at++] = row;
      rows.sort(compare);
      this.#kept.set(by, { rows, changed: new Set() });
      return rows;
    }
    const moved = Uint32Array.from([...known.changed].filter((row) => index.alive[row])).sort(
      compare,
    );
    const rows = new Uint32Array(index.total);
    let at = 0;
    let next = 0;
    for (const row of known.rows) {
      if (known.changed.has(row)) continue;
      while (next < moved.length && compare(moved[next]!, row) < 0) rows[at++] = moved[next++]!;
      rows[at++] = row;
    }
    while (next < moved.length) rows[at++] = moved[next++]!;
    this.#kept.set(by, { rows, changed: new Set() });
    return rows;
  }

  /** Rows that are marked, in an order; downwards what is unknown stays last. */
  walk(by: string, down: boolean, is: Uint8Array, count: number): Uint32Array {
    const rows = this.ascending(by);
    const found = new Uint32Array(count);
    let at = 0;
    if (!down) {
      for (const row of rows) if (is[row]) found[at++] = row;
      return found.subarray(0, at);
    }
    const isUnknown = this.#isUnknown(by);
    let known = rows.length;
    while (known > 0 && isUnknown(rows[known - 1]!)) known -= 1;
    for (let i = known - 1; i >= 0; i -= 1) if (is[rows[i]!]) found[at++] = rows[i]!;
    for (let i = rows.length - 1; i >= known; i -= 1) if (is[rows[i]!]) found[at++] = rows[i]!;
    return found.subarray(0, at);
  }
}

/** Texts by their bytes in UTF-8, as the database's collation C orders them: by code points. */
export function compareBytes(a: string, b: string): number {
  const length = Math.min(a.length, b.length);
  for (let at = 0; at < length; at += 1) {
    const [x, y] = [a.charCodeAt(at), b.charCodeAt(at)];
    if (x === y) continue;
    // Halves of pairs (U+10000 and above) come after all that one unit holds.
    const isPair = (unit: number): boolean => unit >= 0xd800 && unit <= 0xdfff;
    if (isPair(x) !== isPair(y)) return isPair(x) ? 1 : -1;
    return x - y;
  }
  return a.length - b.length;
}
