import fc from 'fast-check';
import { ALL_FIELDS } from '#core/fields/registry';
import type { Field } from '#core/fields/field';
import { TYPES, type Test } from '#core/fields/types';
import { DEFAULT_ORDER, LAST_UNITS, type Condition, type Node, type Query } from '#core/query/tree';

/** Random queries that can be asked, and what they name. */
export interface Choice {
  text: fc.Arbitrary<string>;
  /** References of a field. */
  refs: (field: Field) => fc.Arbitrary<string>;
  numbers: (field: Field) => fc.Arbitrary<number>;
  dates: fc.Arbitrary<string>;
  fields?: readonly Field[];
}

const word = fc
  .string({ minLength: 1, maxLength: 20 })
  .map((text) => text.replace(/\s+/g, ' ').trim())
  .filter((text) => text !== '');

export const uuid = (number: number): string =>
  `#018f0000-0000-7000-8000-${String(number).padStart(12, '0')}`;

export const ANYTHING: Choice = {
  text: word,
  refs: () => fc.integer({ min: 0, max: 9 }).map(uuid),
  numbers: (field) =>
    field.key === 'rating'
      ? fc.integer({ min: -1, max: 5 })
      : fc.oneof(fc.integer({ min: 0, max: 100_000 }), fc.constantFrom(0.5, 2.8, 23.976)),
  dates: fc.constantFrom(
    '2026',
    '2026-09',
    '2026-09-12',
    '2026-09-01/2026-09-12',
    '2026-09~',
    '19XX',
  ),
};

const values = <T>(one: fc.Arbitrary<T>) => fc.uniqueArray(one, { minLength: 1, maxLength: 3 });

function valuesOf(field: Field, test: Test, choice: Choice): fc.Arbitrary<Condition['values']> {
  switch (test) {
    case 'has':
      return fc.constant([]);
    case 'range': {
      const low = field.key === 'rating' ? 0 : -Infinity;
      return fc
        .tuple(choice.numbers(field), choice.numbers(field), fc.constantFrom(0, 1, 2))
        .map(([a, b, open]) => [Math.min(a, b), Math.max(a, b), open] as const)
        .filter(([a, b]) => a < b && a >= low && (field.key !== 'rating' || b < 5))
        .map(([a, b, open]) => [open === 1 ? null : a, open === 2 ? null : b]);
    }
    case 'within':
    case 'before':
    case 'after':
    case 'overlaps':
      return choice.dates.map((date) => [date]);
    case 'last':
      return fc.tuple(fc.integer({ min: 2, max: 60 }), fc.constantFrom(...LAST_UNITS));
    case 'each':
      return fc.constantFrom('09', '02-29', '12-01').map((each) => [each]);
    case 'near':
      if (field.type === 'colour')
        return values(fc.constantFrom('#cc2222', '#aa6633', '#3c8c3c', '#102030'));
      return fc.tuple(
        fc.integer({ min: -90, max: 90 }),
        fc.integer({ min: -180, max: 180 }),
        fc.constantFrom(1, 50, 0.5),
      );
    case 'box':
      return fc.constantFrom([51, 1, 52, 2], [-10, 170, 10, -170], [50, -4.5, 51.22, 1.45]);
    case 'says':
      return choice.text.map((text) => [text]);
    default:
      if (field.type === 'number') return values(choice.numbers(field));
      if (field.type === 'enum')
        return values(fc.constantFrom(...field.values!.map(({ key }) => key)));
      if (field.key === 'number') return fc.constant(['2026.014.0237']);
      return values(field.of ? choice.refs(field) : choice.text);
  }
}

export function conditions(choice: Choice): fc.Arbitrary<Condition> {
  return fc.constantFrom(...(choice.fields ?? ALL_FIELDS)).chain((field) =>
    fc.constantFrom(...TYPES[field.type].tests).chain((test) =>
      fc.tuple(valuesOf(field, test, choice), fc.boolean()).map(([list, negated]) => ({
        ...{ field: field.key, test, values: list },
        ...(negated ? ({ not: true } as const) : {}),
      })),
    ),
  );
}

/** Random queries; groups of `any` and `all` hold two members at least, as the grammar reads them. */
export function queries(choice: Choice, most = 4): fc.Arbitrary<Query> {
  const { node } = fc.letrec<{ node: Node }>((tie) => ({
    node: fc.oneof(
      { depthSize: 'small', maxDepth: 3, withCrossShrink: true },
      conditions(choice),
      fc.array(tie('node'), { minLength: 2, maxLength: 3 }).map((any) => ({ any })),
      fc.array(tie('node'), { minLength: 2, maxLength: 3 }).map((all) => ({ all })),
      fc.array(tie('node'), { minLength: 1, maxLength: 3 }).map((none) => ({ none })),
      fc.array(tie('node'), { maxLength: 2 }).map((spans) => ({ spans })),
    ),
  }));
  const sorted = ALL_FIELDS.filter(({ uses }) => uses.includes('sort')).map(({ key }) => key);
  const grouped = ALL_FIELDS.filter(({ uses }) => uses.includes('group')).map(({ key }) => key);
  return fc
    .record({
      where: fc.array(node, { maxLength: most }),
      order: fc.oneof(
        fc.constant(DEFAULT_ORDER),
        fc.record({ by: fc.constantFrom(...sorted), down: fc.boolean() }),
      ),
      group: fc.option(fc.constantFrom('none', ...grouped), { nil: undefined }),
    })
    .map(({ where, order, group }) => ({ where, order, ...(group ? { group } : {}) }));
}
