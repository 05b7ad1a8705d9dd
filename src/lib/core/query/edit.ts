import type { Field } from '../fields/field';
import { TYPES, type Test } from '../fields/types';
import { searchWords } from '../text/words';
import { fieldOf } from '../fields/registry';
import {
  conditionsOf,
  has,
  is,
  isCondition,
  not,
  refTo,
  replaced,
  type Condition,
  type Query,
} from './tree';

/** How the sheets of the sentence change it. */

/** The condition at an index if it is on a field; null for one that would be added. */
export function conditionAt(query: Query, at: number, field: string): Condition | null {
  const node = query.where[at];
  return node && isCondition(node) && node.field === field ? node : null;
}

/** The query with a condition set at an index, added at −1, or left out where it has nothing to say. */
export function withCondition(query: Query, at: number, condition: Condition | null): Query {
  const says = condition !== null && (condition.test === 'has' || condition.values.length > 0);
  return replaced(query, at, says ? condition : null);
}

const LIST_TESTS: Partial<Record<Field['type'], Test>> = { folder: 'in', colour: 'near' };
const listTest = ({ type }: Field): Test => LIST_TESTS[type] ?? 'is';

/** One more value, or one less, of a condition whose values are alternatives. */
export function toggled(query: Query, at: number, field: Field, value: string | number): Query {
  const now = conditionAt(query, at, field.key);
  const isList = now !== null && ['is', 'in', 'only', listTest(field)].includes(now.test);
  const values = isList ? now.values : [];
  const next = values.includes(value) ? values.filter((one) => one !== value) : [...values, value];
  return withCondition(query, at, {
    field: field.key,
    test: isList ? now.test : listTest(field),
    values: next,
    ...(now?.not && isList ? { not: true } : {}),
  });
}

/** Words that are searched for, folded, as what is found is marked by them. */
export const soughtWords = ({ where }: Query): string[] =>
  [...conditionsOf(where)]
    .filter(({ test, not: negated }) => test === 'says' && !negated)
    .flatMap(({ values }) => searchWords(String(values[0])));

/** The condition that a field says something, or nothing. */
export const saying = (field: Field, says: boolean): Condition =>
  says ? has(field.key) : not(has(field.key));

/** The same condition turned round. */
export function turned({ not: negated, ...plain }: Condition): Condition {
  return negated ? plain : not(plain);
}

/** Tests of a field that take typed text. */
export const textTests = ({ type }: Field): readonly Test[] =>
  TYPES[type].tests.filter((test) => test === 'contains' || test === 'begins' || test === 'is');

/** The condition on one folder, and whether it takes in all levels below; −1 where there is none: everywhere, all levels. */
export function folderAsked({ where }: Query): { at: number; deep: boolean } {
  const at = where.findIndex(
    (node) => isCondition(node) && node.field === 'folder' && !node.not && node.values.length === 1,
  );
  const node = where[at];
  return { at, deep: !node || !isCondition(node) || node.test === 'in' };
}

/** The same asked of one folder, or with null of all. */
export const inFolder = (query: Query, id: string | null, deep: boolean): Query =>
  replaced(
    query,
    folderAsked(query).at,
    id ? { field: 'folder', test: deep ? 'in' : 'only', values: [refTo(id)] } : null,
  );

/** What lies in a collection; one filled by hand has an order of its own. */
export const inCollection = (query: Query, id: string, byHand: boolean): Query => ({
  ...query,
  where: [is('collection', refTo(id))],
  ...(byHand ? { order: { by: 'hand', down: false } } : {}),
});

/** Ordered by a field; by the same once more, the other way round. Texts begin upwards. */
export const orderedBy = (query: Query, by: string): Query => ({
  ...query,
  order: {
    by,
    down: query.order.by === by ? !query.order.down : fieldOf(by)?.type !== 'text',
  },
});
