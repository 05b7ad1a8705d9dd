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
import { keepingOf, type Kept, type ShelfIndex } from './shelfIndex';
import type { NumberColumn, PairColumn } from './columns';
import { and, filled, flip, or, packed, scratch, type Bits, type Flags } from './bits';

/** What conditions speak of besides the columns. */
export interface Surroundings {
  /** Ids of a folder and all below it. */
  foldersBelow: (id: string) => Iterable<string>;
  /** Tree of a standing collection; null for a hand-picked one, undefined for none. */
  collection: (id: string) => Node[] | null | undefined;
  now: Date;
  /** Answers of the database to what the columns do not hold, by the condition as JSON. */
  slow: ReadonlyMap<string, Uint8Array>;
}

/** Conditions the columns cannot answer: the database does. */
export function isSlow({ field: key, test }: Condition): boolean {
  const field = knownField(key);
  return test !== 'has' && keepingOf(field) === 'said';
}
export const slowKey = ({ field, test, values }: Condition): string =>
  JSON.stringify([field, test, values]);

const wall = (text: string): number => Date.parse(`${text}Z`);

function fillTime(column: PairColumn, { test, values }: Condition, now: Date, out: Flags): void {
  const { first, second } = column;
  const rows = Math.min(out.length, first.length);
  if (test === 'has') {
    for (let row = 0; row < rows; row += 1) out[row] = first[row] === first[row] ? 1 : 0;
    return;
  }
  if (test === 'last') {
    const since = wall(sinceWhen(now, Number(values[0]), values[1] as LastUnit));
    for (let row = 0; row < rows; row += 1) out[row] = first[row]! >= since ? 1 : 0;
    return;
  }
  if (test === 'each') {
    const [month = 0, day] = String(values[0]).split('-').map(Number);
    for (let row = 0; row < rows; row += 1) {
      if (first[row] !== first[row]) continue;
      const [from, to] = [new Date(first[row]!), new Date(second[row]!)];
      const fits = (at: Date): boolean =>
        at.getUTCMonth() + 1 === month && (day === undefined || at.getUTCDate() === day);
      out[row] = fits(from) && fits(to) && from.getUTCFullYear() === to.getUTCFullYear() ? 1 : 0;
    }
    return;
  }
  const asked = askedInterval(String(values[0]));
  if (!asked) return;
  const [from, to] = [wall(asked.from), wall(asked.to)];
  for (let row = 0; row < rows; row += 1) {
    const [a, b] = [first[row]!, second[row]!];
    const holds =
      test === 'before'
        ? b < from
        : test === 'after'
          ? a > to
          : test === 'overlaps'
            ? a <= to && b >= from
            : a >= from && b <= to;
    out[row] = holds ? 1 : 0;
  }
}

function fillNear({ first, second }: PairColumn, { test, values }: Condition, out: Flags): void {
  const rows = Math.min(out.length, first.length);
  const [latitude, longitude, km] = values.map(Number) as [number, number, number];
  const [south, west, north, east] = values.map(Number) as [number, number, number, number];
  const band = km / 111 + 0.01;
  for (let row = 0; row < rows; row += 1) {
    const own = first[row]!;
    if (own !== own) continue;
    if (test === 'has') out[row] = 1;
    else if (test === 'box')
      out[row] = isInside({ south, west, north, east }, own, second[row]!) ? 1 : 0;
    else if (Math.abs(own - latitude) <= band)
      out[row] = kilometres(latitude, longitude, own, second[row]!) <= km ? 1 : 0;
  }
}

function fillNumbers({ values: own }: NumberColumn, condition: Condition, out: Flags): void {
  const rows = Math.min(out.length, own.length);
  const { test, values } = condition;
  if (test === 'range' || test === 'has') {
    const [from, to] = (test === 'has' ? [null, null] : values) as (number | null)[];
    const [low, high] = [from ?? -Infinity, to ?? Infinity];
    for (let row = 0; row < rows; row += 1)
      out[row] = own[row]! >= low && own[row]! <= high ? 1 : 0;
    return;
  }
  const holds = valueTest(condition);
  for (let row = 0; row < rows; row += 1) out[row] = holds(own[row]!) ? 1 : 0;
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

function fillMany(
  { column, names }: Extract<Kept, { as: 'many' | 'words' }>,
  condition: Condition,
  size: number,
  out: Bits,
): void {
  const { field: key, test, values } = condition;
  if (test === 'has') return column.markAny(out);
  if (test === 'says') {
    const [first, ...rest] = searchWords(String(values[0]));
    if (first === undefined) return flip(out, size);
    column.mark(names.beginning(first), out);
    for (const word of rest) {
      const part = filled(size, false);
      column.mark(names.beginning(word), part);
      and(out, part);
    }
    return;
  }
  const field = knownField(key);
  if (field.type === 'colour')
    return column.mark(
      codesOf(
        names,
        values.flatMap((one) => codesNear(String(one))),
      ),
      out,
    );
  if (!field.of) {
    const holds = valueTest(condition);
    return column.mark(names.which(holds), out);
  }
  const ids = values.flatMap((value) => idOfRef(value) ?? []);
  // Standing ones are none of an item's own: see evaluate.
  column.mark(codesOf(names, ids), out);
}

const codesOf = (
  names: { codeOf: (name: string) => number | undefined },
  ids: string[],
): number[] => ids.flatMap((id) => names.codeOf(id) ?? []);

function fillCodes(
  index: ShelfIndex,
  condition: Condition,
  around: Surroundings,
  out: Flags,
): void {
  const { field: key, test, values } = condition;
  const kept = index.kept(key);
  if (kept.as !== 'code') return;
  const { codes } = kept.column;
  const rows = Math.min(out.length, codes.length);
  if (test === 'has') {
    for (let row = 0; row < rows; row += 1) out[row] = codes[row] ? 1 : 0;
    return;
  }
  const field = knownField(key);
  const ids = field.of ? values.flatMap((value) => idOfRef(value) ?? []) : [];
  const wished = new Set<string | number>(
    test === 'in' ? ids.flatMap((id) => [...around.foldersBelow(id)]) : ids,
  );
  const table = kept.column.lookUp(field.of ? (value) => wished.has(value) : valueTest(condition));
  for (let row = 0; row < rows; row += 1) out[row] = table[codes[row]!]!;
}

/** Few of many items have one of many values: their bits are set; any other field is asked of every item. */
function bitsOf(index: ShelfIndex, condition: Condition, around: Surroundings): Bits {
  const kept = index.kept(condition.field);
  if (kept.as === 'many' || kept.as === 'words') {
    const bits = filled(index.size, false);
    fillMany(kept, condition, index.size, bits);
    return bits;
  }
  const out = scratch(index.size);
  if (kept.as === 'code') fillCodes(index, condition, around, out);
  else if (kept.as === 'number') fillNumbers(kept.column, condition, out);
  else if (knownField(condition.field).type === 'position') fillNear(kept.column, condition, out);
  else fillTime(kept.column, condition, around.now, out);
  return packed(out);
}

function packedFrom(slow: Uint8Array, size: number): Bits {
  const out = scratch(size);
  out.set(slow.subarray(0, size));
  return packed(out);
}

/** What conditions were found to hold for, kept by whoever asks; `make` finds it out. */
export type Memory = (condition: Condition, make: () => Bits) => Bits;

/** One condition, its negation left aside. */
function found(
  index: ShelfIndex,
  condition: Condition,
  around: Surroundings,
  memory: Memory,
): Bits {
  const slow = isSlow(condition) ? around.slow.get(slowKey(condition)) : undefined;
  return memory(condition, () => {
    const bits = slow ? packedFrom(slow, index.size) : bitsOf(index, condition, around);
    if (condition.field !== 'collection' || condition.test !== 'is') return bits;
    for (const value of condition.values) {
      const nodes = around.collection(idOfRef(value) ?? '');
      if (nodes) or(bits, evaluate(index, { all: nodes }, around, memory));
    }
    return bits;
  });
}

/** Which items a node holds for, those that are there no more among them. */
export function evaluate(
  index: ShelfIndex,
  node: Node,
  around: Surroundings,
  memory: Memory,
): Bits {
  if (isCondition(node)) {
    const bits = found(index, node, around, memory).slice();
    if (node.not) flip(bits, index.size);
    return bits;
  }
  const [word, nodes] = groupOf(node);
  const bits = filled(index.size, word === 'all');
  const join = word === 'all' ? and : or;
  for (const part of nodes) join(bits, evaluate(index, part, around, memory));
  if (word === 'none') flip(bits, index.size);
  return bits;
}
