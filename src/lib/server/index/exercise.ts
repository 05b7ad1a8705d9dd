import { setImmediate } from 'node:timers/promises';
import { TYPES } from '#core/fields/types';
import { fieldsThatCan } from '#core/fields/registry';
import type { Field } from '#core/fields/field';
import type { Facets } from '#core/index/answers';
import {
  EVERYTHING,
  has,
  not,
  refTo,
  type Condition,
  type Node,
  type Query,
} from '#core/query/tree';
import { answerFrom } from './answer';
import type { LivingIndex } from './living';

/** Questions until what answers is compiled: over a million items some seconds of work. */
const QUESTIONS = 500;
/** Values of each field that are asked for. */
const VALUES = 8;
const WORDS = 40;
const PAGE = 60;
const ORDERS = ['taken', 'name', 'bytes', 'rating'];

/** What people may ask for, by what is told most often. */
async function likely(living: LivingIndex): Promise<Node[]> {
  const fields = fieldsThatCan('count');
  const { facets } = await answerFrom(living, {
    ask: 'facets',
    query: EVERYTHING,
    fields: fields.map(({ key }) => key),
    page: PAGE,
  });
  const words = living.nameList().slice(0, WORDS);
  return [
    ...fields.flatMap((field): Node[] => [
      not(has(field.key)),
      ...told(field, facets).map((value): Node => {
        const first = TYPES[field.type].tests[0]!;
        if (first === 'within') return ask(field.key, first, String(value));
        if (first === 'in') return ask(field.key, first, refTo(String(value)));
        if (typeof value === 'number') return ask(field.key, 'range', value, null);
        // Of numbers that all differ, bars are told.
        const bar = field.type === 'number' ? /^(.+)\.\.(.+)$/.exec(value) : null;
        if (bar) return ask(field.key, 'range', Number(bar[1]), Number(bar[2]));
        return ask(field.key, 'is', field.of ? refTo(value) : value);
      }),
    ]),
    ...words.map(({ plain }): Node => ask('words', 'says', plain)),
  ];
}
/** Colours are asked for by likeness, not by what is told. */
const told = ({ key, type }: Field, facets: Facets): (string | number)[] =>
  type === 'colour'
    ? []
    : (facets[key]?.values ?? []).filter((value) => value !== '').slice(0, VALUES);
const ask = (
  field: string,
  test: Condition['test'],
  ...values: Condition['values']
): Condition => ({
  field,
  test,
  values,
});

/**
 * Answer questions nobody asked, so that the first ones somebody asks are answered as fast as the thousandth: what
 * answers is compiled by the engine once it has run often, and what many ask for is looked up once.
 * Between two of them whoever asks has a turn.
 * @param mayGoOn is asked before each
 */
export async function exercise(living: LivingIndex, mayGoOn: () => boolean): Promise<void> {
  const nodes = await likely(living);
  const fields = fieldsThatCan('count').map(({ key }) => key);
  for (let at = 0; at < QUESTIONS && nodes.length > 0; at += 1) {
    await setImmediate();
    if (!mayGoOn()) return;
    const where = [nodes[(at * 7) % nodes.length]!, nodes[(at * 31 + 5) % nodes.length]!];
    const order = { by: ORDERS[at % ORDERS.length]!, down: at % 3 > 0 };
    // One condition finds much, two find little: both ways of counting are gone.
    const query: Query = { where: where.slice(at % 2), order };
    await answerFrom(living, { ask: 'facets', query, fields, page: PAGE });
  }
}
