import { ArchiveError } from '../errors';
import type { Field } from '../fields/field';
import { can, fieldOf } from '../fields/registry';
import { TYPES, type Test } from '../fields/types';
import { NAMED } from '../colour/palette';
import { takenFromText } from '../records/taken';

/**
 * The query: conditions on fields of the registry, under *all of*, *any of*, *none of* to some depth. References hold
 * ids (`#018f…`), so that renaming breaks nothing kept; a label stands where nobody looked it up yet. Its compact text
 * is read and written by ./grammar, its English by ./sentence and ../english.
 */
/**
 * `is`: any of the values. `range`: [from, to], null without end. `last`: [count, unit]. `near`: [lat, lon, km]; of a colour [`#rrggbb`].
 * `box`: [south, west, north, east], across the date line where west is the greater.
 */
export interface Condition {
  field: string;
  test: Test;
  values: (string | number | null)[];
  not?: true;
}
/** `spans`: clips of which there is a span all of these hold for. */
export type Node =
  Condition | { all: Node[] } | { any: Node[] } | { none: Node[] } | { spans: Node[] };
export interface Query {
  /** All of these hold. */
  where: Node[];
  order: { by: string; down: boolean };
  /** Field whose values part the wall; none said: by day where ordered by a date. */
  group?: string;
}

export const isCondition = (node: Node): node is Condition => 'field' in node;
/** The word and the members of a group. */
export const GROUPS = ['all', 'any', 'none', 'spans'] as const;
export type Group = (typeof GROUPS)[number];
export const groupOf = (node: Exclude<Node, Condition>): [Group, Node[]] =>
  Object.entries(node)[0] as [Group, Node[]];
export const groupNode = (word: Group, nodes: Node[]): Node => ({ [word]: nodes }) as Node;

export const LAST_UNITS = ['days', 'weeks', 'months', 'years'] as const;
export type LastUnit = (typeof LAST_UNITS)[number];

export const DEFAULT_ORDER: Query['order'] = { by: 'taken', down: true };
export const EVERYTHING: Query = { where: [], order: DEFAULT_ORDER };

/** Nobody says more in one sentence; a program that does is told so. */
export const LONGEST_QUERY = 20_000;
export const MOST_CONDITIONS = 100;
/** What a sentence may pull in along with the standing collections it names, and those they name. */
export const MOST_STANDING = 40;
export const MOST_PULLED_IN = 1000;
export const DEEPEST = 6;
export const MOST_VALUES = 100;
export const LONGEST_VALUE = 1000;
export const MOST_WORDS = 20;

export const unclear = (sentence: string): ArchiveError =>
  new ArchiveError('query-unclear', sentence);
export const shortened = (text: string): string =>
  text.length > 60 ? `${text.slice(0, 60)}…` : text;

const isText = (value: unknown): value is string => typeof value === 'string' && value !== '';
const isNumber = (value: unknown): value is number =>
  typeof value === 'number' && Number.isFinite(value);

/** What values a test takes: null where these are fit, else what it takes instead. */
type Wrong = (values: Condition['values'], field: Field) => string | null;

const takesTexts: Wrong = (values) =>
  values.length > 0 && values.every(isText) ? null : 'takes at least one value';
const takesDate: Wrong = (values) =>
  values.length === 1 && isText(values[0]) && takenFromText(values[0])
    ? null
    : 'takes one date: 2026, 2026-09, 2026-09-12 or 2026-09-01/2026-09-12';

const WRONG: Record<Test, Wrong> = {
  has: (values) => (values.length === 0 ? null : 'takes no value'),
  is(values, field) {
    if (field.type === 'number')
      return values.length > 0 && values.every(isNumber) ? null : 'takes numbers';
    const all = field.type === 'enum' ? field.values! : null;
    return (
      takesTexts(values, field) ??
      (!all || values.every((value) => all.some(({ key }) => key === value))
        ? null
        : `takes ${all.map(({ key }) => key.split('/').at(-1)).join(', ')}`)
    );
  },
  contains: takesTexts,
  begins: takesTexts,
  range(values) {
    const [from, to] = values;
    const fits = values.length === 2 && values.every((value) => value === null || isNumber(value));
    if (!fits || (from === null && to === null)) return 'takes numbers like 3, 3.. or 1..4';
    return from === null || to === null || from! <= to! ? null : 'ends before it begins';
  },
  within: takesDate,
  before: takesDate,
  after: takesDate,
  overlaps: takesDate,
  last(values) {
    const [count, unit] = values;
    const fits = isNumber(count) && Number.isInteger(count) && count > 0 && count <= 10_000;
    return fits && values.length === 2 && LAST_UNITS.includes(unit as LastUnit)
      ? null
      : 'takes a count of days, weeks, months or years';
  },
  each: (values) =>
    values.length === 1 && isText(values[0]) && isEach(values[0])
      ? null
      : 'takes a month or a day of it, like 09 or 09-12',
  in: takesTexts,
  only: takesTexts,
  near(values, field) {
    if (field.type === 'colour')
      return values.length > 0 && values.every((one) => /^#[0-9a-f]{6}$/.test(String(one)))
        ? null
        : `takes colours like #a63 or ${Object.keys(NAMED).join(', ')}`;
    const [latitude, longitude, km] = values;
    const fits = values.length === 3 && values.every(isNumber);
    return fits &&
      Math.abs(Number(latitude)) <= 90 &&
      Math.abs(Number(longitude)) <= 180 &&
      Number(km) > 0 &&
      Number(km) <= 20_100
      ? null
      : 'takes latitude, longitude and kilometres';
  },
  box(values) {
    const [south, west, north, east] = values.map(Number) as [number, number, number, number];
    const fits = values.length === 4 && values.every(isNumber) && south <= north;
    return fits && south >= -90 && north <= 90 && Math.abs(west) <= 180 && Math.abs(east) <= 180
      ? null
      : 'takes south, west, north and east in degrees';
  },
  says(values) {
    if (values.length !== 1 || !isText(values[0])) return 'takes words';
    return values[0].split(/\s+/).length > MOST_WORDS ? `takes ${MOST_WORDS} words at most` : null;
  },
};

/** What is wrong with the values of a condition; null where nothing is. */
function wrongValues(field: Field, { test, values }: Condition): string | null {
  const isNoRating = (value: unknown): boolean => isNumber(value) && (value < -1 || value > 5);
  if (field.key === 'rating' && values.some(isNoRating)) return 'lies between rejected and 5';
  return WRONG[test](values, field);
}

/** A month, or a day that some year has. */
function isEach(text: string): boolean {
  const [, month, day = '01'] = /^(\d\d)(?:-(\d\d))?$/.exec(text) ?? [];
  return month !== undefined && takenFromText(`2024-${month}-${day}`) !== null;
}

function checkCondition(condition: Condition): void {
  const { field: key, test, values } = condition;
  const field = fieldOf(key);
  if (!field) throw unclear(`“${shortened(key)}” is no field; docs/query.md lists them`);
  const { tests } = TYPES[field.type];
  if (!tests.includes(test))
    throw unclear(`“${key}” cannot be asked “${test}”; it can: ${tests.join(', ')}`);
  if (values.length > MOST_VALUES)
    throw unclear(`“${key}” takes ${MOST_VALUES} values at most; ask in parts`);
  for (const value of values) {
    if (typeof value !== 'string') continue;
    if (value.length > LONGEST_VALUE)
      throw unclear(`A value of “${key}” is longer than ${LONGEST_VALUE} characters`);
    if (value.includes('\0') || !value.isWellFormed())
      throw unclear(`A value of “${key}” holds characters that no text has`);
  }
  const wrong = wrongValues(field, condition);
  if (wrong) throw unclear(`“${key} ${shortened(values.join(', '))}”: ${key} ${wrong}`);
}

/** Every condition of a tree, left to right. */
export function* conditionsOf(nodes: readonly Node[]): Generator<Condition> {
  for (const node of nodes)
    if (isCondition(node)) yield node;
    else yield* conditionsOf(groupOf(node)[1]);
}

/** Whether any of some nodes asks for what is true of a clip's spans. */
export const asksForSpans = (nodes: readonly Node[]): boolean =>
  nodes.some((node) => !isCondition(node) && ('spans' in node || asksForSpans(groupOf(node)[1])));

const depthOf = (nodes: readonly Node[]): number =>
  Math.max(0, ...nodes.map((node) => (isCondition(node) ? 0 : 1 + depthOf(groupOf(node)[1]))));

/** The query if it is one that can be asked. @throws ArchiveError query-unclear, saying what is wrong */
export function checkQuery(query: Query): Query {
  if (depthOf(query.where) > DEEPEST)
    throw unclear(`Groups lie in each other deeper than ${DEEPEST}; ask in parts`);
  const conditions = [...conditionsOf(query.where)];
  if (conditions.length > MOST_CONDITIONS)
    throw unclear(`The query has more than ${MOST_CONDITIONS} conditions; ask in parts`);
  conditions.forEach(checkCondition);
  const { by } = query.order;
  const sorted = fieldOf(by);
  if (by !== 'hand' && !(sorted && can(sorted, 'sort')))
    throw unclear(`“order ${shortened(by)}”: that is nothing to sort by`);
  if (query.group !== undefined) {
    const grouped = fieldOf(query.group);
    if (query.group !== 'none' && !(grouped && can(grouped, 'group')))
      throw unclear(`“group ${shortened(query.group)}”: that is nothing to group by`);
  }
  return query;
}

/** The query with one of its top conditions replaced, left out (null), or with one more (index −1). */
export function replaced(query: Query, index: number, node: Node | null): Query {
  const where = [...query.where];
  if (index < 0) where.push(...(node ? [node] : []));
  else where.splice(index, 1, ...(node ? [node] : []));
  return { ...query, where };
}

/** Index of the first top condition on a field that is not negated; −1 where there is none. */
export const indexOfField = (query: Query, field: string): number =>
  query.where.findIndex((node) => isCondition(node) && node.field === field && !node.not);

/** Conditions as plain objects. */
export const is = (field: string, ...values: (string | number)[]): Condition => ({
  field,
  test: 'is',
  values,
});
export const has = (field: string): Condition => ({ field, test: 'has', values: [] });
export const not = (condition: Condition): Condition => ({ ...condition, not: true });

const REFERENCE = /^#[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/;
/** A reference by id, as trees hold it. */
export const refTo = (id: string): string => `#${id}`;
/** The id of a reference; null where a label stands in its place. */
export const idOfRef = (value: unknown): string | null =>
  typeof value === 'string' && REFERENCE.test(value) ? value.slice(1) : null;

/** The query with the values of its references changed. */
export function mapRefs(query: Query, change: (field: Field, value: string) => string): Query {
  const mapNode = (node: Node): Node => {
    if (!isCondition(node)) {
      const [word, nodes] = groupOf(node);
      return groupNode(word, nodes.map(mapNode));
    }
    const field = fieldOf(node.field);
    if (!field?.of || node.test === 'has') return node;
    return { ...node, values: node.values.map((one) => change(field, String(one))) };
  };
  return { ...query, where: query.where.map(mapNode) };
}

/** The field a wall is parted by: the one that was said, else the day where it is ordered by time; null for one group. */
export function groupFieldOf({ group, order }: Query): string | null {
  if (group === 'none') return null;
  return group ?? (fieldOf(order.by)?.type === 'date' ? order.by : null);
}
