import { codesNear } from '../colour/palette';
import { knownField } from '../fields/registry';
import { isInside } from '../atlas/clusters';
import { kilometres } from '../geo/position';
import { askedInterval, sinceWhen } from '../query/meaning';
import {
  groupOf,
  idOfRef,
  isCondition,
  type Condition,
  type LastUnit,
  type Node,
} from '../query/tree';
import { searchWords } from '../text/words';
import { keepingOf, type KeptColumn, type ShelfIndex } from './shelfIndex';
import type { CodeColumn } from './codeColumn';
import type { ManyColumn } from './manyColumn';
import type { NumberColumn, PairColumn } from './numberColumns';
import { ItemSet } from './itemSet';
import type { PostingColumn } from './postings';
import { and, andNot, filled, flip, or, type Bits } from './bits';

/** What conditions speak of besides the columns. */
export interface Surroundings {
  /** Ids of a folder and all below it. */
  foldersBelow: (id: string) => Iterable<string>;
  /** Tree of a standing collection; null for a hand-picked one, undefined for none. */
  collection: (id: string) => Node[] | null | undefined;
  now: Date;
  /** What of the spans the one who asks may see. */
  seen: readonly Node[];
  /** Answers of the database to what the columns do not hold, by the condition as JSON. */
  slow: ReadonlyMap<string, Bits>;
}

/** Conditions the columns cannot answer: the database does. */
export function isSlow({ field: key, test }: Condition): boolean {
  const field = knownField(key);
  return test !== 'has' && keepingOf(field) === 'said';
}
export const slowKey = ({ field, test, values }: Condition): string =>
  JSON.stringify([field, test, values]);

const wall = (text: string): number => Date.parse(`${text}Z`);

/** First and last ms of a month or year; null of what is known less exactly. */
function spanOf(step: string | null): [from: number, to: number] | null {
  const [, year, month] = /^(\d{4}|[+-]\d{6})(?:-(\d\d))?$/.exec(step ?? '') ?? [];
  if (year === undefined) return null;
  const from = wall(`${year}-${month ?? '01'}-01T00:00:00`);
  const next = new Date(from);
  if (month === undefined) next.setUTCFullYear(next.getUTCFullYear() + 1);
  else next.setUTCMonth(next.getUTCMonth() + 1);
  return [from, next.getTime() - 1];
}

type Between = (from: number, to: number) => boolean;

/** What a test asks of times, by their ends in ms. */
interface TimeTest {
  /** Of one time. */
  holds: Between;
  /** Whether it holds for all times that lie between two, and whether it may for any. */
  all: Between;
  any: Between;
}

/** Null where what is asked is no time. */
function timeTest({ test, values }: Condition, now: Date): TimeTest | null {
  if (test === 'last') {
    const since = wall(sinceWhen(now, Number(values[0]), values[1] as LastUnit));
    const begins: Between = (from) => from >= since;
    return { holds: begins, all: begins, any: (_, to) => to >= since };
  }
  if (test === 'each') {
    const [month = 0, day] = String(values[0]).split('-').map(Number);
    const isMonth = (at: number): boolean => new Date(at).getUTCMonth() + 1 === month;
    const isDay = (at: number): boolean => day === undefined || new Date(at).getUTCDate() === day;
    const isOne: Between = (from, to) =>
      isMonth(from) &&
      isMonth(to) &&
      new Date(from).getUTCFullYear() === new Date(to).getUTCFullYear();
    const holds: Between = (from, to) => isOne(from, to) && isDay(from) && isDay(to);
    return { holds, all: (from, to) => day === undefined && isOne(from, to), any: isOne };
  }
  const asked = askedInterval(String(values[0]));
  if (!asked) return null;
  const [first, last] = [wall(asked.from), wall(asked.to)];
  const before: Between = (_, to) => to < first;
  const after: Between = (from) => from > last;
  const inside: Between = (from, to) => from >= first && to <= last;
  const meets: Between = (from, to) => from <= last && to >= first;
  if (test === 'before') return { holds: before, all: before, any: (from) => from < first };
  if (test === 'after') return { holds: after, all: after, any: (_, to) => to > last };
  return { holds: test === 'overlaps' ? meets : inside, all: inside, any: meets };
}

/** Times are told by months: only those of months at the ends of what is asked are looked at one by one. */
function timesOf(
  { first, second }: PairColumn,
  steps: CodeColumn<string>,
  condition: Condition,
  now: Date,
  size: number,
): ItemSet {
  const table = new Uint8Array(steps.size);
  if (condition.test === 'has') return byTable(steps, table.fill(1, 1), size);
  const test = timeTest(condition, now);
  if (!test) return ItemSet.none(size);
  for (let code = 1; code < table.length; code += 1) {
    const span = spanOf(steps.value(code));
    table[code] = !span ? 2 : test.all(...span) ? 1 : test.any(...span) ? 2 : 0;
  }
  return byTable(steps, table, size, (row) => test.holds(first[row]!, second[row]!));
}

function markNear({ first, second }: PairColumn, { test, values }: Condition, out: Bits): void {
  const [latitude, longitude, km] = values.map(Number) as [number, number, number];
  const [south, west, north, east] = values.map(Number) as [number, number, number, number];
  const band = km / 111 + 0.01;
  for (let row = 0; row < first.length; row += 1) {
    const own = first[row]!;
    if (own !== own) continue;
    const holds =
      test === 'has' ||
      (test === 'box'
        ? isInside({ south, west, north, east }, own, second[row]!)
        : Math.abs(own - latitude) <= band &&
          kilometres(latitude, longitude, own, second[row]!) <= km);
    if (holds) out[row >>> 5]! |= 1 << (row & 31);
  }
}

function markNumbers({ values: own }: NumberColumn, condition: Condition, out: Bits): void {
  const { test, values } = condition;
  if (test === 'range' || test === 'has') {
    const [from, to] = (test === 'has' ? [null, null] : values) as (number | null)[];
    const [low, high] = [from ?? -Infinity, to ?? Infinity];
    for (let row = 0; row < own.length; row += 1)
      if (own[row]! >= low && own[row]! <= high) out[row >>> 5]! |= 1 << (row & 31);
    return;
  }
  const holds = valueTest(condition);
  for (let row = 0; row < own.length; row += 1)
    if (holds(own[row]!)) out[row >>> 5]! |= 1 << (row & 31);
}

/** How a test holds for a text or number. */
function valueTest({ test, values }: Condition): (value: string | number) => boolean {
  if (test === 'range') {
    const [from, to] = [values[0] ?? -Infinity, values[1] ?? Infinity] as [number, number];
    return (value) => (value as number) >= from && (value as number) <= to;
  }
  if (test === 'is') {
    const wished = new Set<unknown>(values);
    return (value) => wished.has(value);
  }
  const texts = values.map((value) => String(value).toLowerCase());
  return test === 'contains'
    ? (value) => texts.some((text) => String(value).toLowerCase().includes(text))
    : (value) => texts.some((text) => String(value).toLowerCase().startsWith(text));
}

/** Items by their codes of one column, few or many. */
function byTable(
  column: CodeColumn,
  table: Uint8Array,
  size: number,
  holds?: (row: number) => boolean,
): ItemSet {
  const few = column.few(table, holds);
  return few ? ItemSet.of(few, size) : marked(size, (out) => column.mark(table, out, holds));
}
function byCodes(column: ManyColumn | PostingColumn, codes: number[], size: number): ItemSet {
  const few = column.few(codes);
  return few ? ItemSet.of(few, size) : marked(size, (out) => column.mark(codes, out));
}
function marked(size: number, mark: (out: Bits) => void): ItemSet {
  const bits = filled(size, false);
  mark(bits);
  return new ItemSet({ bits }, size);
}

function manyOf(
  { column, names }: Extract<KeptColumn, { as: 'many' | 'words' }>,
  condition: Condition,
  size: number,
): ItemSet {
  const { field: key, test, values } = condition;
  if (test === 'has') return marked(size, (out) => column.markAny(out));
  if (test === 'says') {
    const sets = searchWords(String(values[0])).map((word) =>
      byCodes(column, names.beginning(word), size),
    );
    if (sets.length === 0) return new ItemSet({ bits: filled(size, true) }, size);
    return sets.reduce((one, other) => inBoth(one, other));
  }
  const field = knownField(key);
  const codes =
    field.type === 'colour'
      ? codesOf(
          names,
          values.flatMap((one) => codesNear(String(one))),
        )
      : field.of
        ? // Standing ones are none of an item's own: see evaluate.
          codesOf(
            names,
            values.flatMap((value) => idOfRef(value) ?? []),
          )
        : names.which(valueTest(condition));
  return byCodes(column, codes, size);
}

function inBoth(one: ItemSet, other: ItemSet): ItemSet {
  const [few, rest] = one.few ? [one.few, other] : [other.few, one];
  if (few) return new ItemSet({ rows: few.filter(rest.has) }, one.size);
  const bits = one.bits.slice();
  and(bits, other.bits);
  return new ItemSet({ bits }, one.size);
}

const codesOf = (
  names: { codeOf: (name: string) => number | undefined },
  ids: string[],
): number[] => ids.flatMap((id) => names.codeOf(id) ?? []);

function codedOf(
  column: CodeColumn,
  condition: Condition,
  around: Surroundings,
  size: number,
): ItemSet {
  const { field: key, test, values } = condition;
  if (test === 'has') return byTable(column, new Uint8Array(column.size).fill(1, 1), size);
  if (!knownField(key).of) return byTable(column, column.lookUp(valueTest(condition)), size);
  const table = new Uint8Array(column.size);
  for (const value of values) {
    const id = idOfRef(value);
    if (id === null) continue;
    for (const one of test === 'in' ? around.foldersBelow(id) : [id]) table[column.codeOf(one)] = 1;
  }
  // What no item says has no code.
  table[0] = 0;
  return byTable(column, table, size);
}

/** What a condition holds for, in what the columns say. */
function setOf(index: ShelfIndex, condition: Condition, around: Surroundings): ItemSet {
  const kept = index.kept(condition.field);
  const { size } = index;
  if (kept.as === 'many' || kept.as === 'words') return manyOf(kept, condition, size);
  if (kept.as === 'code') return codedOf(kept.column, condition, around, size);
  if (kept.as === 'number') {
    const { column } = kept;
    return marked(size, (out) => markNumbers(column, condition, out));
  }
  const { column, steps } = kept;
  return steps
    ? timesOf(column, steps, condition, around.now, size)
    : marked(size, (out) => markNear(column, condition, out));
}

/** What conditions were found to hold for, kept by whoever asks; `make` finds it out. */
export type Memory = (condition: Condition, make: () => ItemSet) => ItemSet;

/** What a condition of several values holds for, by what each does: each is found out once, whatever stands beside it. */
function anyOf(condition: Condition, of: (one: Condition) => Bits, size: number): ItemSet {
  const bits = filled(size, false);
  for (const value of condition.values) or(bits, of({ ...condition, values: [value] }));
  return new ItemSet({ bits }, size);
}

/** What a condition holds for, its negation left aside. It is kept: nobody changes it. */
export function found(
  index: ShelfIndex,
  condition: Condition,
  around: Surroundings,
  memory: Memory,
): ItemSet {
  const slow = isSlow(condition) ? around.slow.get(slowKey(condition)) : undefined;
  return memory(condition, () => {
    if (condition.field === 'collection' && condition.test === 'is' && condition.values.length > 1)
      return anyOf(condition, (one) => found(index, one, around, memory).bits, index.size);
    const set = slow ? new ItemSet({ bits: slow }, index.size) : setOf(index, condition, around);
    if (condition.field !== 'collection' || condition.test !== 'is') return set;
    const bits = set.bits.slice();
    for (const value of condition.values) {
      const nodes = around.collection(idOfRef(value) ?? '');
      if (nodes) or(bits, evaluate(index, { all: nodes }, around, memory));
    }
    return new ItemSet({ bits }, index.size);
  });
}

/**
 * The rows all of some nodes hold for, where one of them is a condition that holds for few; else null. Those that are
 * there no more may be among them.
 */
export function fewOf(
  index: ShelfIndex,
  nodes: readonly Node[],
  around: Surroundings,
  memory: Memory,
): Uint32Array | null {
  const sets = nodes.map((node) => (isCondition(node) ? found(index, node, around, memory) : null));
  const isPlain = (node: Node): boolean => isCondition(node) && !node.not;
  const least = sets
    .flatMap((set, at) => (set?.few && isPlain(nodes[at]!) ? [{ few: set.few, at }] : []))
    .sort((a, b) => a.few.length - b.few.length)[0];
  if (!least) return null;
  let rows = least.few;
  nodes.forEach((node, at) => {
    if (at === least.at || rows.length === 0) return;
    const set =
      sets[at] ?? new ItemSet({ bits: evaluate(index, node, around, memory) }, index.size);
    const holds = !(isCondition(node) && node.not);
    rows = rows.filter((row) => set.has(row) === holds);
  });
  return rows;
}

/** Leave of some items those a node holds for. */
function narrow(
  index: ShelfIndex,
  node: Node,
  around: Surroundings,
  memory: Memory,
  into: Bits,
): void {
  if (isCondition(node))
    return (node.not ? andNot : and)(into, found(index, node, around, memory).bits);
  const [word, nodes] = groupOf(node);
  if (word === 'all') for (const part of nodes) narrow(index, part, around, memory, into);
  else and(into, evaluate(index, node, around, memory));
}

/** Clips of which there is a span that all of some nodes hold for. */
function clipsOf(
  index: ShelfIndex,
  nodes: readonly Node[],
  around: Surroundings,
  memory: Memory,
): Bits {
  const { alive, clips, size } = index;
  const spans = evaluate(index, { all: [...nodes, ...around.seen] }, around, memory);
  const bits = filled(size, false);
  for (let row = 1; row < size; row += 1)
    if (clips[row] && alive[row] && (spans[row >>> 5]! >>> (row & 31)) & 1) {
      const clip = clips[row]!;
      bits[clip >>> 5]! |= 1 << (clip & 31);
    }
  return bits;
}

/**
 * Which items a node holds for, of all or of some; where none are given, those that are there no more may be among them.
 * @param some are changed
 */
export function evaluate(
  index: ShelfIndex,
  node: Node,
  around: Surroundings,
  memory: Memory,
  some?: Bits,
): Bits {
  const [word, nodes] = isCondition(node) ? (['all', [node]] as const) : groupOf(node);
  if (some || word === 'all') {
    const bits = some ?? filled(index.size, true);
    narrow(index, node, around, memory, bits);
    return bits;
  }
  if (word === 'spans') return clipsOf(index, nodes, around, memory);
  const bits = filled(index.size, false);
  for (const part of nodes) or(bits, evaluate(index, part, around, memory));
  if (word === 'none') flip(bits, index.size);
  return bits;
}
