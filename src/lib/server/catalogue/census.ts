import type { Choice } from '#core/catalogue/tile';
import { knownField, lacksWords } from '#core/fields/registry';
import type { Viewer } from '#core/sight/viewer';
import { formatQuery } from '#core/query/grammar';
import { EVERYTHING, has, is, not, type Condition, type Query } from '#core/query/tree';
import type { Density } from '#core/timeline/bins';
import type { House } from '../house/house';
import { choices, density, total, wall } from './reading';

/** What is missing: a figure and the sentence that finds what it counts. */
export interface Gap {
  key: string;
  label: string;
  count: number;
  q: string;
}

export interface Census {
  total: number;
  bytes: number;
  gaps: Gap[];
  /** Counts of fields, the fullest first, numbers in order. */
  fields: { key: string; label: string; choices: Choice[]; lacking: number }[];
  /** Hours of the day. */
  hours: Density;
  /** By the month brought in. */
  growth: Density;
}

const FIELDS = [
  ...['kind', 'format', 'camera', 'lens', 'focalLength', 'aperture', 'iso'],
  ...['stage', 'rating', 'terms', 'creator', 'persons', 'collection'],
];
const MOST_BARS = 12;
/** Bars that stay wide enough to be pressed. */
const MOST_NUMBERS = 9;

const GAPS: { key: string; label: string; condition: Condition }[] = [
  ...['creditLine', 'taken', 'terms', 'position', 'title', 'picture'].map((key) => ({
    key,
    label: lacksWords(knownField(key)),
    condition: not(has(key)),
  })),
  { key: 'missing', label: 'missing on disk', condition: is('file', 'missing') },
  { key: 'single', label: 'one copy only', condition: is('copies', 1) },
  { key: 'twin', label: 'held twice', condition: has('twin') },
  { key: 'waiting', label: 'waiting to be written', condition: is('writing', 'waiting') },
];

/** Figures of what a query finds; each says how to find what it counts. */
export async function censusOf(house: House, viewer: Viewer, query: Query): Promise<Census> {
  const withIt = (condition: Condition): Query => ({
    ...EVERYTHING,
    where: [...query.where, condition],
  });
  // One figure after the other: so many questions at once would hold up everybody else's.
  const found = await wall(house, viewer, { ...query, order: EVERYTHING.order, group: 'none' });
  const hours = await density(house, viewer, query, 'taken', 'clock');
  const growth = await density(house, viewer, query, 'brought', 'month');
  const gaps: Gap[] = [];
  for (const { key, label, condition } of GAPS) {
    const asked = withIt(condition);
    gaps.push({ key, label, count: await total(house, viewer, asked), q: formatQuery(asked) });
  }
  const fields: Census['fields'] = [];
  for (const key of FIELDS) {
    const field = knownField(key);
    const told = await choices(house, viewer, query, { field: key, at: -1, typed: '' });
    const said = told.choices.filter(({ count }) => count > 0);
    // Of many numbers the fullest, in their order.
    const fullest = [...said].sort((a, b) => b.count - a.count).slice(0, MOST_NUMBERS);
    const shown =
      field.type === 'number'
        ? fullest.sort((a, b) => Number(a.value) - Number(b.value))
        : said.slice(0, MOST_BARS);
    fields.push({ key, label: field.label, lacking: told.lacking, choices: shown });
  }
  return { total: found.total, bytes: found.bytes, gaps, fields, hours, growth };
}
