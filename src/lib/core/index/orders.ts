import { fieldOf } from '../fields/registry';
import { isIn, type Bits } from './bits';
import type { ShelfIndex } from './shelfIndex';

/** Rows in an order that is kept up to date: ascending, unknown last, ties by catalogue number. */
interface Order {
  rows: Uint32Array;
  /** Place of each row; made when few rows are first put in order. */
  places?: Uint32Array;
  /** How many say something in the field; the others stand after them. */
  known?: number;
  /** Rows whose place is to be found anew. */
  changed: Set<number>;
}

/** Rows are few where there are as many times more. */
const FEW = 24;

/** Some rows, as bits or ascending. */
interface Some {
  readonly count: number;
  readonly bits: Bits;
  readonly rows: Uint32Array;
}

/** Rows of an order that are marked. */
function marked(rows: Uint32Array, { bits, count }: Some): Uint32Array {
  const found = new Uint32Array(count);
  for (let from = 0, at = 0; from < rows.length; from += 1)
    if (isIn(bits, rows[from]!)) found[at++] = rows[from]!;
  return found;
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

  /** An order that names decide is made anew. */
  forget(by: string): void {
    this.#kept.delete(by);
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
    if (kept.as === 'number') {
      const { values } = kept.column;
      return (a, b) => {
        const [x, y] = [values[a]!, values[b]!];
        if (x !== x) return y !== y ? ties(a, b) : 1;
        return y !== y ? -1 : x - y || ties(a, b);
      };
    }
    if (kept.as !== 'code') return ties;
    const ranks = this.#ranks(by);
    const { codes } = kept.column;
    return (a, b) => ranks[codes[a]!]! - ranks[codes[b]!]! || ties(a, b);
  }

  /** Place of each code of a column among all, the lack of one last. */
  #ranks(by: string): Float64Array {
    const kept = this.index.kept(by);
    if (kept.as !== 'code') throw new TypeError(`“${by}” has no codes`);
    const values = Array.from({ length: kept.column.size }, (_, code) => kept.column.value(code));
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
    if (kept.as === 'number') return (row) => Number.isNaN(kept.column.values[row] ?? NaN);
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
      const ready = this.#byRank(by) ?? rows.sort(compare);
      this.#kept.set(by, { rows: ready, changed: new Set() });
      return ready;
    }
    const moved = Uint32Array.from([...known.changed].filter((row) => index.alive[row])).sort(
      compare,
    );
    const rows = new Uint32Array(index.total);
    let at = 0;
    let next = 0;
    const isChanged = new Uint8Array(index.size);
    for (const row of known.changed) isChanged[row] = 1;
    for (let i = 0; i < known.rows.length; i += 1) {
      const row = known.rows[i]!;
      if (isChanged[row]) continue;
      while (next < moved.length && compare(moved[next]!, row) < 0) rows[at++] = moved[next++]!;
      rows[at++] = row;
    }
    while (next < moved.length) rows[at++] = moved[next++]!;
    this.#kept.set(by, { rows, changed: new Set() });
    return rows;
  }

  /**
   * All rows by the place of their code among all codes: those of one code stay in the order of the catalogue numbers
   * they are taken from, so that nothing is compared. Null where the field has no codes.
   */
  #byRank(by: string): Uint32Array | null {
    const field = fieldOf(by);
    const kept = field && this.index.kept(by);
    if (!kept || kept.as !== 'code' || ['number', 'brought', 'accession'].includes(by)) return null;
    const { codes } = kept.column;
    const ranks = this.#ranks(by);
    const places = new Uint32Array(kept.column.size + 2);
    const numbered = this.ascending('number');
    const rankOf = (row: number): number => ranks[codes[row] ?? 0]!;
    for (let at = 0; at < numbered.length; at += 1) places[rankOf(numbered[at]!) + 1]! += 1;
    for (let rank = 1; rank < places.length; rank += 1) places[rank]! += places[rank - 1]!;
    const rows = new Uint32Array(numbered.length);
    for (let at = 0; at < numbered.length; at += 1)
      rows[places[rankOf(numbered[at]!)]!++] = numbered[at]!;
    return rows;
  }

  /** Some rows in an order; downwards what is unknown stays last. */
  put(by: string, down: boolean, some: Some): Uint32Array {
    const rows = this.ascending(by);
    const found = some.count * FEW < rows.length ? this.#placed(by, some.rows) : marked(rows, some);
    if (!down) return found;
    const isUnknown = this.#isUnknown(by);
    let known = found.length;
    while (known > 0 && isUnknown(found[known - 1]!)) known -= 1;
    found.subarray(0, known).reverse();
    found.subarray(known).reverse();
    return found;
  }

  /** The first of some rows in an order, as {@link put} would put them: neither all nor these are put in order. */
  first(by: string, down: boolean, some: Some, count: number): Uint32Array {
    const rows = this.ascending(by);
    const known = down ? this.#known(by, rows) : 0;
    if (some.count * FEW < this.index.total) {
      const places = this.#places(by);
      const best = least(some.rows, places, down ? { known, total: rows.length } : null, count);
      return Uint32Array.from(best, (place) => rows[place]!);
    }
    const found: number[] = [];
    const { bits } = some;
    const wished = Math.min(count, some.count);
    const take = (from: number, to: number, step: number): void => {
      for (let at = from; at !== to && found.length < wished; at += step)
        if (isIn(bits, rows[at]!)) found.push(rows[at]!);
    };
    if (down) {
      take(known - 1, -1, -1);
      take(rows.length - 1, known - 1, -1);
    } else take(0, rows.length, 1);
    return Uint32Array.from(found);
  }

  #known(by: string, rows: Uint32Array): number {
    const order = this.#kept.get(by)!;
    if (order.known !== undefined) return order.known;
    const isUnknown = this.#isUnknown(by);
    let known = rows.length;
    while (known > 0 && isUnknown(rows[known - 1]!)) known -= 1;
    return (order.known = known);
  }

  /** Few rows by their places: faster than to walk through all. */
  #placed(by: string, some: Uint32Array): Uint32Array {
    const { rows } = this.#kept.get(by)!;
    const places = this.#places(by);
    const found = new Uint32Array(some.length);
    for (let at = 0; at < some.length; at += 1) found[at] = places[some[at]!]!;
    found.sort();
    for (let at = 0; at < found.length; at += 1) found[at] = rows[found[at]!]!;
    return found;
  }
  #places(by: string): Uint32Array {
    const order = this.#kept.get(by)!;
    if (!order.places) {
      order.places = new Uint32Array(this.index.size);
      for (let at = 0; at < order.rows.length; at += 1) order.places[order.rows[at]!] = at;
    }
    return order.places;
  }
}

/** How an order is turned: what is known backwards, then what is not. */
interface Turned {
  known: number;
  total: number;
}
/** Where a place of an order is in the turned one, and back. */
const turnedPlace = (place: number, { known, total }: Turned): number =>
  place < known ? known - 1 - place : total - 1 - place + known;

/** The first places of some rows in an order, or in the turned one, in its order. */
function least(
  rows: Uint32Array,
  placeOf: Uint32Array,
  turned: Turned | null,
  count: number,
): number[] {
  // Some more are gathered than are wished for, and put in order only when there is no more room.
  const places = new Float64Array(count * 4);
  let gathered = 0;
  let limit = Infinity;
  const settle = (): void => {
    places.subarray(0, gathered).sort();
    gathered = Math.min(count, gathered);
    if (gathered === count) limit = places[count - 1]!;
  };
  for (let i = 0; i < rows.length; i += 1) {
    const own = placeOf[rows[i]!]!;
    const place = turned === null ? own : turnedPlace(own, turned);
    if (place >= limit) continue;
    places[gathered++] = place;
    if (gathered === places.length) settle();
  }
  settle();
  const found = Array.from(places.subarray(0, gathered));
  return turned === null ? found : found.map((place) => turnedPlace(place, turned));
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
