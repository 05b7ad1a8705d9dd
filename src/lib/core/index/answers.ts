import { gather, isInside, type Box, type Cluster } from '../atlas/clusters';
import { barChoices } from '../choices/shown';
import type { Histogram, WallGroup } from '../catalogue/tile';
import { formatQuery } from '../query/grammar';
import { conditionsOf, idOfRef, type Condition, type Node, type Query } from '../query/tree';
import { densityOf, stepNames, type Density, type Unit } from '../timeline/bins';
import { andNot, countOfBoth, filled, markWhere, type Bits } from './bits';
import type { PairColumn } from './numberColumns';
import { countOver, type Count, type Sums } from './counting';
import { evaluate, fewOf, found as foundOf, type Memory, type Surroundings } from './evaluate';
import { ItemSet } from './itemSet';
import { Orders, type RankOf } from './orders';
import { MOST_FEW } from './postings';
import type { ShelfIndex } from './shelfIndex';
import { Latest } from './latest';
import { largest } from './largest';
import { histogramOf, NOTHING, told, type Whole } from './sums';
import { codesOf, Tallies } from './tallies';

/** Rows of results kept for those who scroll through them, in all: 4 bytes each. */
const MOST_ROWS_KEPT = 2_000_000;
/** Words of bits of conditions kept: of a million items each takes 31,250. */
const MOST_CONDITIONS_KEPT = 4_000_000;

/** Values of facets kept, some thousand of a sentence: one looks at the same again, and at what everybody looks at. */
const MOST_FACETS_KEPT = 1_000_000;

/** What is counted over some items. */
export interface Part {
  found: ItemSet;
  counts: readonly Count[];
}
/** Whoever counts: of each part its sums. */
export type Counting = (parts: readonly Part[]) => Promise<Sums[][]>;

/** Count in this thread. */
export const countedHere = (parts: readonly Part[]): Sums[][] =>
  parts.map(({ found, counts }) => counts.map((count) => countOver(found.rows, count)));

/** Counts of a field's values over what a query finds. */
export interface Counted {
  /** By value; refs by id. Of numbers that are all different, how they are spread instead. */
  counts: Map<string | number, number>;
  lacking: number;
  histogram?: Histogram;
}

/** The values told most often of each field, and how often each of these is. */
export type Facets = Record<string, { values: (string | number)[]; counts: number[] }>;

/** The answers of one index. */
export class Answers {
  readonly #found = new Latest<ItemSet>(({ count, size }) => count + size / 32, MOST_ROWS_KEPT);
  readonly #results = new Latest<Uint32Array>(({ length }) => length, MOST_ROWS_KEPT);
  /** What each condition holds for. */
  readonly #conditions = new Latest<ItemSet>(
    ({ few, size }) => few?.length ?? size / 32,
    MOST_CONDITIONS_KEPT,
  );
  /** All other items of sets that are more than half of everything. */
  readonly #otherSets = new WeakMap<ItemSet, ItemSet>();
  readonly #facets = new Latest<Promise<Facets>>(() => 10_000, MOST_FACETS_KEPT);
  readonly orders: Orders;
  readonly #tallies: Tallies;

  constructor(
    readonly index: ShelfIndex,
    rankOf: RankOf,
    /** Positions of a collection's items, for the order of the hand. */
    readonly handOf: (collectionId: string) => ReadonlyMap<string, number> | null = () => null,
  ) {
    this.orders = new Orders(index, rankOf);
    this.#tallies = new Tallies(index);
  }

  /** Make ready what counts many fields at once. */
  prepare(): void {
    this.#tallies.prepare();
  }

  /** Make them anew where items say too much by now that is new. */
  settle(): void {
    this.#tallies.settle();
  }

  /** Rows a query finds, in no order. */
  found(query: Query, around: Surroundings): ItemSet {
    return this.#found.of(keyOf(inNoOrder(query), around), this.index.version, () =>
      this.#evaluate(query.where, around),
    );
  }
  #evaluate(nodes: readonly Node[], around: Surroundings): ItemSet {
    const { index } = this;
    const memory = this.#memory(around);
    const few = fewOf(index, nodes, around, memory);
    if (few) {
      const { alive } = index;
      return new ItemSet({ rows: few.filter((row) => alive[row] === 1) }, index.size);
    }
    const all: Node = { all: [...nodes] };
    const bits = evaluate(index, all, around, memory, this.#alive().slice());
    return new ItemSet({ bits }, index.size);
  }
  #memory(around: Surroundings): Memory {
    return (condition, make) =>
      this.#conditions.of(conditionKey(condition, around), this.index.version, make);
  }
  #alive(): Bits {
    const held = this.#conditions.of('', this.index.version, () => {
      const { alive, size } = this.index;
      const bits = filled(size, false);
      markWhere(alive, Uint8Array.of(0, 1), () => false, bits);
      return new ItemSet({ bits }, size);
    });
    return held.bits;
  }

  /** Rows a query finds, in its order. */
  rows(query: Query, around: Surroundings): Uint32Array {
    return this.#results.of(keyOf(query, around), this.index.version, () => {
      const found = this.found(query, around);
      const { by, down } = query.order;
      const collection = by === 'hand' ? firstCollection(query) : null;
      const positions = collection ? this.handOf(collection) : null;
      let rows = this.orders.put(by === 'hand' ? 'taken' : by, down, found);
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
    return this.orders.first(by, down, this.found(query, around), count);
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

  /**
   * What is counted to tell fields over what a query finds; over more than half of everything it is what the query
   * does not find. All but the counting is done at once: what is read of it later is of the same version.
   * @param most only so many of the largest sums are wished for
   */
  #question(
    query: Query,
    keys: readonly string[],
    around: Surroundings,
    most?: number,
  ): { parts: Part[]; read: (counted: readonly Sums[][]) => Map<string, Sums> } {
    const found = this.found(query, around);
    const said = new Map<string, Sums>();
    const byOthers = new Map<string, Whole>();
    const byFound: string[] = [];
    for (const key of keys) {
      const kept = this.index.kept(key);
      if (kept.as === 'pair' && !kept.steps) {
        said.set(key, { ...NOTHING, lacking: this.#lacking(found, key, kept.column, around) });
        continue;
      }
      const whole = found.count * 2 > this.index.total ? this.#tallies.whole(key) : null;
      if (!whole) byFound.push(key);
      else if (found.count === this.index.total)
        said.set(key, { ...told(whole.sums), lacking: whole.lacking });
      else byOthers.set(key, whole);
    }
    const others = byOthers.size > 0 ? this.#others(found) : found;
    const [own, rest] = [
      this.#tallies.plan(found, byFound, { most }),
      this.#tallies.plan(others, [...byOthers.keys()], { most, wholes: byOthers }),
    ];
    return {
      parts: [
        { found, counts: own.counts },
        { found: others, counts: rest.counts },
      ],
      read: ([mine, theirs]) => {
        for (const [key, sums] of own.read(mine!)) said.set(key, sums);
        for (const [key, sums] of rest.read(theirs!)) said.set(key, sums);
        for (const key of keys) {
          const kept = this.index.kept(key);
          if (kept.as === 'number') said.set(key, kept.column.spread(said.get(key)!, found));
        }
        return said;
      },
    };
  }
  #sumsOf(query: Query, key: string, around: Surroundings): Sums {
    const { parts, read } = this.#question(query, [key], around);
    return read(countedHere(parts)).get(key)!;
  }

  /** How many of some items have no position. */
  #lacking(found: ItemSet, key: string, { first }: PairColumn, around: Surroundings): number {
    if (found.count < MOST_FEW) {
      let lacking = 0;
      for (const row of found.rows) if (!(first[row]! === first[row]!)) lacking += 1;
      return lacking;
    }
    const has: Condition = { field: key, test: 'has', values: [] };
    const { bits } = foundOf(this.index, has, around, this.#memory(around));
    return found.count - countOfBoth(found.bits, bits);
  }

  /** Items that are not among some. */
  #others(found: ItemSet): ItemSet {
    const known = this.#otherSets.get(found);
    if (known) return known;
    const bits = this.#alive().slice();
    andNot(bits, found.bits);
    const others = new ItemSet({ bits }, this.index.size);
    this.#otherSets.set(found, others);
    return others;
  }

  /** The values told most often of some fields, over what a query finds, and how often. */
  async facets(
    query: Query,
    keys: readonly string[],
    around: Surroundings,
    most: number,
    count: Counting = (parts) => Promise.resolve(countedHere(parts)),
  ): Promise<Facets> {
    const asked = JSON.stringify([keyOf(inNoOrder(query), around), most, keys]);
    return this.#facets.of(asked, this.index.version, async () => {
      const { parts, read } = this.#question(query, keys, around, most);
      const sums = read(await count(parts));
      return Object.fromEntries(keys.map((key) => [key, this.#most(key, sums.get(key)!, most)]));
    });
  }
  #most(key: string, sums: Sums, count: number): Facets[string] {
    const kept = this.index.kept(key);
    if (kept.as === 'number') {
      const histogram = histogramOf(sums);
      const bars = histogram ? barChoices(histogram) : [];
      return { values: bars.map(({ value }) => value), counts: bars.map((bar) => bar.count) };
    }
    const own = codesOf(kept);
    const from = kept.as === 'many' ? 0 : 1;
    const { codes, counts } = largest(sums.codes, sums.counts, from, count);
    const nameOf = (code: number): string | number =>
      kept.as === 'many' ? kept.names.name(code) : (own?.value(code) ?? '');
    return { values: Array.from(codes, nameOf), counts: Array.from(counts) };
  }

  /** Counts of a field's values over what a query finds. */
  count(query: Query, key: string, around: Surroundings): Counted {
    const kept = this.index.kept(key);
    const sums = this.#sumsOf(query, key, around);
    const { lacking } = sums;
    const counts = new Map<string | number, number>();
    if (kept.as === 'number') return { counts, lacking, histogram: histogramOf(sums) };
    const codes = codesOf(kept);
    sums.codes.forEach((code, at) => {
      if (kept.as !== 'many' && code === 0) return;
      const value = kept.as === 'many' ? kept.names.name(code) : codes?.value(code);
      const count = sums.counts[at]!;
      if (count > 0 && value !== undefined && value !== null)
        counts.set(value, (counts.get(value) ?? 0) + count);
    });
    return { counts, lacking };
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

/** “The last 30 days” is another every minute, in the sentence of a standing collection too. */
const moves = ({ field, test }: Condition): boolean => test === 'last' || field === 'collection';
const minute = ({ now }: Surroundings): number => Math.floor(now.getTime() / 60_000);

/** What is known of a condition is kept under this. */
const conditionKey = (condition: Condition, around: Surroundings): string => {
  const { field, test, values } = condition;
  // What a standing collection finds may turn on spans, which not everybody sees.
  const seen = field === 'collection' ? around.seen : [];
  return JSON.stringify([field, test, values, moves(condition) ? minute(around) : 0, seen]);
};

/** What an answer is kept under. */
const keyOf = (query: Query, around: Surroundings): string =>
  `${formatQuery(query)}${[...conditionsOf(query.where)].some(moves) ? minute(around) : ''}`;

const inNoOrder = (query: Query): Query => ({ ...query, order: { by: 'number', down: false } });

const firstCollection = (query: Query): string | null => {
  for (const { field, test, values } of conditionsOf(query.where))
    if (field === 'collection' && test === 'is') return idOfRef(values[0]);
  return null;
};
