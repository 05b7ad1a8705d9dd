import { gather, isInside, type Box, type Cluster } from '../atlas/clusters';
import { barChoices, BARS, bins } from '../choices/shown';
import type { Histogram, WallGroup } from '../catalogue/tile';
import { fieldsThatCan } from '../fields/registry';
import { formatQuery } from '../query/grammar';
import { conditionsOf, idOfRef, type Condition, type Node, type Query } from '../query/tree';
import { densityOf, stepNames, type Density, type Unit } from '../timeline/bins';
import type { CodeColumn, NumberColumn, PairColumn } from './columns';
import { and, countOf, countOfBoth, flip, packed, rowsOf, scratch, type Bits } from './bits';
import { evaluate, type Surroundings } from './evaluate';
import { Orders, type RankOf } from './orders';
import { Profiles } from './profiles';
import type { Kept, ShelfIndex } from './shelfIndex';

/** Rows of results kept for those who scroll through them, in all: 4 bytes each. */
const MOST_ROWS_KEPT = 3_000_000;
/** Words of bits of conditions kept: of a million items each takes 31,250. */
const MOST_CONDITIONS_KEPT = 5_000_000;

/** What a query finds, in no order. */
class Found {
  readonly count: number;
  #rows: Uint32Array | null = null;
  /** All other items, where those are fewer; made when first counted. */
  others?: Uint32Array;

  constructor(readonly bits: Bits) {
    this.count = countOf(bits);
  }
  get rows(): Uint32Array {
    return (this.#rows ??= rowsOf(this.bits));
  }
}

/** How often each code of a field is told. */
interface Sums {
  sums: Uint32Array;
  lacking: number;
}

/** Counts of a field's values over what a query finds. */
export interface Counted {
  /** By value; refs by id. Of numbers that are all different, how they are spread instead. */
  counts: Map<string | number, number>;
  lacking: number;
  histogram?: Histogram;
}

/** The answers of one index. */
export class Answers {
  readonly #found = new Latest<Found>(({ bits, count }) => bits.length + count);
  readonly #results = new Latest<Uint32Array>(({ length }) => length);
  /** What each condition holds for. */
  readonly #conditions = new Latest<Bits>(({ length }) => length, MOST_CONDITIONS_KEPT);
  readonly orders: Orders;
  readonly #profiles: Profiles;

  constructor(
    readonly index: ShelfIndex,
    rankOf: RankOf,
    /** Positions of a collection's items, for the order of the hand. */
    readonly handOf: (collectionId: string) => ReadonlyMap<string, number> | null = () => null,
  ) {
    this.orders = new Orders(index, rankOf);
    this.#profiles = new Profiles(index);
  }

  /** Make ready what counts many fields at once. */
  prepare(): void {
    this.#profiles.make(
      fieldsThatCan('count').flatMap(({ key }) => this.#codesOf(this.index.kept(key)) ?? []),
    );
  }

  /** Make them anew where items say too much by now that is new. */
  settle(): void {
    if (this.#profiles.isSpoilt) this.prepare();
  }

  /** What of a field is told by codes: its values, or the steps of its times. */
  #codesOf(kept: Kept): CodeColumn | undefined {
    return kept.as === 'code' ? kept.column : kept.as === 'pair' ? kept.steps : undefined;
  }

  /** Rows a query finds, in no order. */
  found(query: Query, around: Surroundings): Found {
    const key = keyOf({ ...query, order: { by: 'number', down: false } }, around);
    return this.#found.of(key, this.index.version, () => {
      const bits = this.#evaluate({ all: query.where }, around);
      and(bits, this.#alive());
      return new Found(bits);
    });
  }
  #evaluate(node: Node, around: Surroundings): Bits {
    return evaluate(this.index, node, around, (condition, make) =>
      this.#conditions.of(conditionKey(condition, around), this.index.version, make),
    );
  }
  #alive(): Bits {
    return this.#conditions.of('', this.index.version, () => {
      const { alive, size } = this.index;
      const out = scratch(size);
      out.set(alive.subarray(0, size));
      return packed(out);
    });
  }

  /** Rows a query finds, in its order. */
  rows(query: Query, around: Surroundings): Uint32Array {
    return this.#results.of(keyOf(query, around), this.index.version, () => {
      const { bits, rows: found } = this.found(query, around);
      const { by, down } = query.order;
      const collection = by === 'hand' ? firstCollection(query) : null;
      const positions = collection ? this.handOf(collection) : null;
      let rows = this.orders.put(by === 'hand' ? 'taken' : by, down, bits, found);
      if (positions) rows = this.#byHand(rows, positions, down);
      if (query.group && query.group !== 'none' && query.group !== by)
        rows = this.#parted(rows, query.group);
      return rows;
    });
  }

  /** The first rows a query finds in its order. */
  first(query: Query, around: Surroundings, count: number): Uint32Array {
    const { by, down } = query.order;
    if (by === 'hand' || (query.group && query.group !== 'none' && query.group !== by))
      return this.rows(query, around).subarray(0, count);
    const { bits, rows } = this.found(query, around);
    return this.orders.first(by, down, bits, rows, count);
  }

  /** How large the originals of some rows are. */
  bytes(rows: Uint32Array): number {
    const bytesOf = this.#bytes();
    let sum = 0;
    for (let at = 0; at < rows.length; at += 1) sum += bytesOf(rows[at]!);
    return sum;
  }

  #bytes(): (row: number) => number {
    const kept = this.index.kept('bytes');
    if (kept.as !== 'number') return () => 0;
    const { values } = kept.column;
    return (row) => values[row] || 0;
  }

  #byHand(rows: Uint32Array, positions: ReadonlyMap<string, number>, down: boolean): Uint32Array {
    const at = new Map<number, number>();
    for (const [id, position] of positions) {
      const row = this.index.rowOf(id);
      if (row !== undefined) at.set(row, position);
    }
    const { numberKeys } = this.index;
    return Uint32Array.from(rows).sort((a, b) => {
      const [x, y] = [at.get(a), at.get(b)];
      const sign = down ? -1 : 1;
      if (x === y) return sign * (numberKeys[a]! - numberKeys[b]!);
      if (x === undefined) return 1;
      return y === undefined ? -1 : sign * (x - y);
    });
  }

  /** Key of the group an item hangs under. */
  groupKey(field: string): (row: number) => string {
    if (field === 'taken') return (row) => this.index.days.get(row) ?? '';
    const kept = this.index.kept(field);
    if (kept.as === 'pair') {
      const { first } = kept.column;
      return (row) =>
        first[row] === first[row] ? new Date(first[row]!).toISOString().slice(0, 10) : '';
    }
    if (kept.as === 'many')
      return (row) => {
        const first = kept.column.get(row)[0];
        return first === undefined ? '' : kept.names.name(first);
      };
    if (kept.as === 'number') return (row) => String(kept.column.values[row] || '');
    if (kept.as === 'words') return () => '';
    return (row) => String(kept.column.get(row) ?? '');
  }

  /** Values that part the wall stand together, in their own order; within each the order stays. */
  #parted(rows: Uint32Array, field: string): Uint32Array {
    const keyOf = this.groupKey(field);
    const groups = new Map<string, number[]>();
    for (let at = 0; at < rows.length; at += 1) {
      const row = rows[at]!;
      const key = keyOf(row);
      const own = groups.get(key);
      if (own) own.push(row);
      else groups.set(key, [row]);
    }
    const places = new Map<string, number>();
    const kept = this.index.kept(field);
    if (kept.as === 'code') {
      // The place of a group is that of its first item in the field's own order.
      let at = 0;
      for (const row of this.orders.ascending(field)) {
        const key = keyOf(row);
        if (!places.has(key)) places.set(key, (at += 1));
        if (places.size >= groups.size && [...groups.keys()].every((one) => places.has(one))) break;
      }
    } else [...groups.keys()].sort().forEach((key, at) => places.set(key, at + 1));
    places.set('', Infinity);
    const sorted = [...groups].sort(([a], [b]) => places.get(a)! - places.get(b)!);
    const found = new Uint32Array(rows.length);
    let at = 0;
    for (const [, own] of sorted) for (const row of own) found[at++] = row;
    return found;
  }

  /** Headings of a wall. */
  groups(rows: Uint32Array, field: string | null): WallGroup[] {
    const { aspects } = this.index;
    const keyOf = field === null ? null : this.groupKey(field);
    const taken = this.index.kept('taken');
    const time = (row: number): string | null => {
      const at = taken.as === 'pair' ? taken.column.first[row]! : NaN;
      return at === at ? new Date(at).toISOString().slice(0, 23) : null;
    };
    const groups: WallGroup[] = [];
    let last: WallGroup | null = null;
    let lastRow = 0;
    for (let at = 0; at < rows.length; at += 1) {
      const row = rows[at]!;
      const key = keyOf === null ? null : keyOf(row);
      if (!last || last.key !== key) {
        if (last) last.to = time(lastRow);
        last = { key, count: 0, from: time(row), to: null, wide: 0 };
        groups.push(last);
      }
      last.count += 1;
      last.wide += aspects[row]! / 100;
      lastRow = row;
    }
    if (last) last.to = time(lastRow);
    return groups;
  }

  /** Sums over some rows. */
  #tally(rows: Uint32Array, key: string): Sums {
    const kept = this.index.kept(key);
    if (kept.as === 'many') {
      const sums = new Uint32Array(kept.column.most + 1);
      return { sums, lacking: kept.column.count(rows, sums) };
    }
    const codes = this.#codesOf(kept);
    if (codes) {
      const sums = this.#profiles.sums(rows, codes) ?? codes.count(rows, this.index.total);
      return { sums, lacking: sums[0]! };
    }
    const { first } = kept.column as PairColumn;
    let lacking = 0;
    for (let at = 0; at < rows.length; at += 1)
      if (first[rows[at]!] !== first[rows[at]!]) lacking += 1;
    return { sums: new Uint32Array(0), lacking };
  }

  /** Sums over everything. */
  #whole(key: string): Sums | null {
    const kept = this.index.kept(key);
    const { total } = this.index;
    if (kept.as === 'many') return kept.column.whole(total);
    const codes = this.#codesOf(kept);
    if (!codes) return null;
    const sums = codes.whole(total);
    return { sums, lacking: sums[0]! };
  }

  /** Sums over what a query finds; of more than half of everything by what it does not find. */
  #sumsOf(query: Query, key: string, around: Surroundings): Sums {
    const found = this.found(query, around);
    const { total } = this.index;
    const kept = this.index.kept(key);
    if (kept.as === 'pair' && !kept.steps) {
      const has = this.#evaluate({ field: key, test: 'has', values: [] }, around);
      return { sums: new Uint32Array(0), lacking: found.count - countOfBoth(found.bits, has) };
    }
    const whole = found.count * 2 > total ? this.#whole(key) : null;
    if (!whole) return this.#tally(found.rows, key);
    if (found.count === total) return whole;
    found.others ??= this.#others(found.bits);
    const { sums, lacking } = this.#tally(found.others, key);
    for (let code = 0; code < sums.length; code += 1) sums[code] = whole.sums[code]! - sums[code]!;
    return { sums, lacking: whole.lacking - lacking };
  }

  /** Items that are not among some. */
  #others(bits: Bits): Uint32Array {
    const others = bits.slice();
    flip(others, this.index.size);
    and(others, this.#alive());
    return rowsOf(others);
  }

  /** The values told most often of a field, over what a query finds, and how often. */
  most(
    query: Query,
    key: string,
    around: Surroundings,
    count: number,
  ): { value: string | number; count: number }[] {
    const kept = this.index.kept(key);
    if (kept.as === 'number') {
      const { histogram } = this.count(query, key, around);
      return histogram ? barChoices(histogram) : [];
    }
    const { sums } = this.#sumsOf(query, key, around);
    const codes = this.#codesOf(kept);
    return largest(sums, kept.as === 'many' ? 0 : 1, count).map((code) => ({
      value: kept.as === 'many' ? kept.names.name(code) : (codes?.value(code) ?? ''),
      count: sums[code]!,
    }));
  }

  /** Counts of a field's values over what a query finds. */
  count(query: Query, key: string, around: Surroundings): Counted {
    const kept = this.index.kept(key);
    if (kept.as === 'number') return this.#spread(this.found(query, around).rows, kept.column);
    const { sums, lacking } = this.#sumsOf(query, key, around);
    const counts = new Map<string | number, number>();
    if (kept.as === 'many') {
      for (let code = 0; code < sums.length; code += 1)
        if (sums[code]) counts.set(kept.names.name(code), sums[code]!);
      return { counts, lacking };
    }
    const codes = this.#codesOf(kept);
    for (let code = 1; code < sums.length; code += 1) {
      const value = sums[code] ? codes?.value(code) : undefined;
      if (value !== undefined && value !== null)
        counts.set(value, (counts.get(value) ?? 0) + sums[code]!);
    }
    return { counts, lacking };
  }

  /** How the numbers of some rows are spread. */
  #spread(rows: Uint32Array, { values }: NumberColumn): Counted {
    // Values stand apart in memory: they are fetched once, side by side.
    const own = new Float64Array(rows.length);
    let [from, to, known] = [Infinity, -Infinity, 0];
    for (let at = 0; at < rows.length; at += 1) {
      const value = values[rows[at]!]!;
      if (value < from) from = value;
      if (value > to) to = value;
      if (value === value) own[known++] = value;
    }
    const counts = new Map<string | number, number>();
    const lacking = rows.length - known;
    if (known === 0) return { counts, lacking };
    const sums = new Uint32Array(BARS);
    const binOf = bins(from, to);
    for (let at = 0; at < known; at += 1) sums[binOf(own[at]!)]! += 1;
    return { counts, lacking, histogram: { from, to, counts: Array.from(sums) } };
  }

  /** How densely the times of a field lie. */
  density(query: Query, key: string, unit: Unit, around: Surroundings): Density {
    const { rows } = this.found(query, around);
    const kept = this.index.kept(key);
    const bytesOf = this.#bytes();
    const bins = new Map<string, { count: number; bytes: number }>();
    const wide = new Map<string, number>();
    let unknown = 0;
    if (kept.as !== 'pair') return densityOf(unit, bins, wide, 0);
    const { first, second } = kept.column;
    const [nameOf, dayOf] = [stepNames(unit), stepNames('day')];
    for (let at = 0; at < rows.length; at += 1) {
      const row = rows[at]!;
      const from = first[row]!;
      const to = second[row]!;
      if (from !== from) {
        unknown += 1;
        continue;
      }
      const step = nameOf(from);
      const isWide = unit === 'clock' ? from !== to : step !== nameOf(to);
      if (isWide) {
        const span = `${dayOf(from)}/${dayOf(to)}`;
        wide.set(span, (wide.get(span) ?? 0) + 1);
        continue;
      }
      const bin = bins.get(step);
      const bytes = bytesOf(row);
      if (bin) {
        bin.count += 1;
        bin.bytes += bytes;
      } else bins.set(step, { count: 1, bytes });
    }
    return densityOf(unit, bins, wide, unknown);
  }

  /** Positions in a box, gathered for a map of some scale; and how many have none. */
  positions(
    query: Query,
    box: Box,
    cell: number,
    around: Surroundings,
  ): { clusters: Cluster[]; lacking: number } {
    const { rows } = this.found(query, around);
    const kept = this.index.kept('position');
    const grid = gather(cell);
    let lacking = 0;
    if (kept.as !== 'pair') return { clusters: [], lacking };
    const { first, second } = kept.column;
    for (let at = 0; at < rows.length; at += 1) {
      const row = rows[at]!;
      const latitude = first[row]!;
      if (latitude !== latitude) lacking += 1;
      else if (isInside(box, latitude, second[row]!)) grid.add(latitude, second[row]!, row);
    }
    return { clusters: grid.clusters(), lacking };
  }

  /** Earliest and latest time taken, and how many, of each folder. */
  folders(
    query: Query,
    around: Surroundings,
  ): Map<string, { here: number; from: number; to: number }> {
    const { rows } = this.found(query, around);
    const folder = this.index.kept('folder');
    const taken = this.index.kept('taken');
    const found = new Map<string, { here: number; from: number; to: number }>();
    if (folder.as !== 'code' || taken.as !== 'pair') return found;
    const { codes, size } = folder.column;
    const here = new Uint32Array(size);
    const from = new Float64Array(size).fill(Infinity);
    const to = new Float64Array(size).fill(-Infinity);
    const { first, second } = taken.column;
    for (let at = 0; at < rows.length; at += 1) {
      const row = rows[at]!;
      const code = codes[row]!;
      here[code]! += 1;
      if (first[row]! < from[code]!) from[code] = first[row]!;
      if (second[row]! > to[code]!) to[code] = second[row]!;
    }
    for (let code = 1; code < size; code += 1)
      if (here[code])
        found.set(String(folder.column.value(code)), {
          here: here[code]!,
          from: from[code]!,
          to: to[code]!,
        });
    return found;
  }
}

/** Codes of the largest sums, the largest first, of equal ones the smaller code; one pass, no order of all. */
function largest(sums: Uint32Array, from: number, count: number): number[] {
  const best: number[] = [];
  let least = 0;
  for (let code = from; code < sums.length; code += 1) {
    const sum = sums[code]!;
    if (sum <= least) continue;
    let at = best.length;
    while (at > 0 && sums[best[at - 1]!]! < sum) at -= 1;
    best.splice(at, 0, code);
    if (best.length > count) best.pop();
    if (best.length === count) least = sums[best[count - 1]!]!;
  }
  return best;
}

/** “The last 30 days” is another every minute, in the sentence of a standing collection too. */
const moves = ({ field, test }: Condition): boolean => test === 'last' || field === 'collection';
const minute = ({ now }: Surroundings): number => Math.floor(now.getTime() / 60_000);

/** What is known of a condition is kept under this. */
const conditionKey = (condition: Condition, around: Surroundings): string => {
  const { field, test, values } = condition;
  return JSON.stringify([field, test, values, moves(condition) ? minute(around) : 0]);
};

/** What an answer is kept under. */
const keyOf = (query: Query, around: Surroundings): string =>
  `${formatQuery(query)}${[...conditionsOf(query.where)].some(moves) ? minute(around) : ''}`;

const firstCollection = (query: Query): string | null => {
  for (const { field, test, values } of conditionsOf(query.where))
    if (field === 'collection' && test === 'is') return idOfRef(values[0]);
  return null;
};

/** Answers of the present version of the index, the latest asked for first to stay. */
class Latest<T> {
  readonly #all = new Map<string, T>();
  #version = 0;
  #rows = 0;

  constructor(
    readonly sizeOf: (value: T) => number,
    readonly most = MOST_ROWS_KEPT,
  ) {}

  of(key: string, version: number, make: () => T): T {
    if (version !== this.#version) {
      this.#all.clear();
      this.#rows = 0;
      this.#version = version;
    }
    const known = this.#all.get(key);
    if (known) this.#all.delete(key);
    const value = known ?? make();
    this.#all.set(key, value);
    if (!known) this.#rows += this.sizeOf(value);
    for (const [oldest, old] of this.#all) {
      if (this.#rows <= this.most || oldest === key) break;
      this.#all.delete(oldest);
      this.#rows -= this.sizeOf(old);
    }
    return value;
  }
}
