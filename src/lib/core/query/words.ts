import { MONTHS } from '../text/dateWords';
import { colourName } from '../colour/palette';
import type { Field } from '../fields/field';
import { hasWords, knownField, lacksWords, leadOf } from '../fields/registry';
import { KIND_WORDS, type Kind } from '../kinds/kinds';
import type { Test } from '../fields/types';
import { idOfRef, type Condition } from './tree';

/** The words of one condition, which ../english reads back. */
export const NUMBERS = ['no', 'one', 'two', 'three', 'four', 'five'];

/** Label of a reference as trees hold it; what nobody knows any more is said so. */
export type LabelOf = (reference: string) => string | undefined;

/** Words that part a sentence; a name that holds one stands in quotes. */
export const PARTING = new Set(
  'and or in on at of by not no from to with without either neither nor both else also taken about before after within ordered all this level levels the last each than more most every brought saying'.split(
    ' ',
  ),
);
const SIMPLE = /^[\p{L}\p{N}][\p{L}\p{N}'’ -]*$/u;
/** A name as it stands in the sentence: bare where it cannot be misread. */
export function nameInSentence(name: string): string {
  const words = name.toLowerCase().split(' ');
  const isSimple = SIMPLE.test(name) && words.every((word) => word !== '' && !PARTING.has(word));
  return isSimple && /\p{L}/u.test(name) ? name : quoted(name);
}
export const quoted = (text: string): string => `“${text.replaceAll('”', '””')}”`;

/** `three pips or more`, `rejected`, `one to four pips`. */
export function ratedWords(min: number, max: number): string {
  const pips = (value: number): string => `${NUMBERS[value]} ${value === 1 ? 'pip' : 'pips'}`;
  if (min === max) return min === -1 ? 'rejected' : min === 0 ? 'not rated' : pips(min);
  if (max === 5)
    return min === -1 ? 'any rating' : min === 0 ? 'not rejected' : `${pips(min)} or more`;
  if (min === -1) return max === 0 ? 'not rated yet or rejected' : `${pips(max)} at most`;
  return min === 0 ? `${pips(max)} at most, not rejected` : `${NUMBERS[min]} to ${pips(max)}`;
}

/** `12 September 2026`, `September 2026`, `2026`; other EDTF as it is written. */
export function dateWords(text: string): string {
  const [, year, month, day] = /^(\d{4})(?:-(\d\d))?(?:-(\d\d))?$/.exec(text) ?? [];
  if (!year) return text;
  if (!month) return year;
  const name = MONTHS[Number(month) - 1];
  if (!name) return text;
  return day ? `${Number(day)} ${name} ${year}` : `${name} ${year}`;
}

/** `in September 2026`, `on 12 September 2026`, `from … to …`. */
export function withinWords(edtf: string): string {
  const [from, to] = edtf.split('/');
  if (to) return `from ${dateWords(from!)} to ${dateWords(to)}`;
  return `${/^\d{4}-\d\d-\d\d/.test(edtf) ? 'on' : 'in'} ${dateWords(edtf)}`;
}

const UNITS: Record<string, string> = { bytes: ' bytes', MP: ' MP', ppi: ' ppi' };
export const unitWords = ({ unit }: Field): string => (unit ? (UNITS[unit] ?? ` ${unit}`) : '');

/** The noun of a field inside of the sentence. */
export const nounOf = ({ label }: Field): string =>
  /^[A-Z]{2}/.test(label) ? label : label[0]!.toLowerCase() + label.slice(1);

const either = (texts: string[]): string => texts.join(' or ');

export const enumWords = (field: Field, value: string): string =>
  field.key === 'kind'
    ? KIND_WORDS[value as Kind]
    : (field.values!.find(({ key }) => key === value)?.label ?? value);

function numberWords(field: Field, { test, values }: Condition): string {
  if (field.key === 'rating') {
    if (test === 'range') return ratedWords(Number(values[0] ?? -1), Number(values[1] ?? 5));
    return either(values.map((value) => ratedWords(Number(value), Number(value))));
  }
  const unit = unitWords(field);
  if (test === 'is') return `${nounOf(field)} ${either(values.map(String))}${unit}`;
  const [from, to] = values;
  if (from === null) return `${nounOf(field)} ${to}${unit} at most`;
  return to === null
    ? `${nounOf(field)} ${from}${unit} or more`
    : `${nounOf(field)} from ${from} to ${to}${unit}`;
}

/** `Wind Week, all levels` of a folder's whole path. */
export function folderWords(path: string, deep: boolean): string {
  return `${nameInSentence(path)}, ${deep ? 'all levels' : 'this level'}`;
}

/** What a reference is called in the sentence. */
export function refWords(value: unknown, labelOf: LabelOf): string {
  const text = String(value);
  const label = labelOf(text);
  if (label !== undefined) return nameInSentence(label);
  return idOfRef(text) ? quoted(text) : nameInSentence(text);
}

/** What a condition of a test says, without its negation. */
type Saying = (field: Field, condition: Condition, labelOf: LabelOf) => string;

const texts = ({ values }: Condition): string => either(values.map((one) => quoted(String(one))));
const noun =
  (word: string): Saying =>
  (field, condition) =>
    `${nounOf(field)} ${word} ${texts(condition)}`;
const time =
  (said: (value: string) => string): Saying =>
  (field, { values }) =>
    `${leadOf(field)} ${said(String(values[0]))}`;
const folders: Saying = (_, { test, values }, labelOf) =>
  `in ${either(values.map((value) => refWords(value, labelOf)))}, ${test === 'in' ? 'all levels' : 'this level'}`;

const SAYINGS: Record<Exclude<Test, 'has'>, Saying> = {
  is(field, condition, labelOf) {
    if (field.type === 'number') return numberWords(field, condition);
    const { values } = condition;
    const words =
      field.type === 'enum'
        ? either(values.map((value) => enumWords(field, String(value))))
        : field.of
          ? either(values.map((value) => refWords(value, labelOf)))
          : texts(condition);
    return `${leadOf(field)} ${words}`;
  },
  contains: noun('containing'),
  begins: noun('beginning'),
  range: numberWords,
  within: time(withinWords),
  before: time((value) => `before ${dateWords(value)}`),
  after: time((value) => `after ${dateWords(value)}`),
  overlaps: time((value) => `about ${value.includes('/') ? quoted(value) : dateWords(value)}`),
  last: (field, { values }) => `${leadOf(field)} in the last ${values[0]} ${String(values[1])}`,
  each: time((value) => {
    const [month, day] = value.split('-');
    return `each ${day ? `${Number(day)} ` : ''}${MONTHS[Number(month) - 1]}`;
  }),
  in: folders,
  only: folders,
  near: (field, { values }) =>
    field.type === 'colour'
      ? `${leadOf(field)} ${either(values.map((value) => colourName(String(value))))}`
      : `within ${values[2]} km of ${values[0]}, ${values[1]}`,
  box: (_, { values }) => `between ${values[0]}, ${values[1]} and ${values[2]}, ${values[3]}`,
  says: (_, { values }) => `saying ${quoted(String(values[0]))}`,
};

/** One condition in words. */
export function conditionWords(condition: Condition, labelOf: LabelOf): string {
  const field = knownField(condition.field);
  const { test } = condition;
  if (test === 'has') return condition.not ? lacksWords(field) : hasWords(field);
  const words = SAYINGS[test](field, condition, labelOf);
  // “not rejected” and “not rated” are ratings of their own.
  return condition.not ? `${field.key === 'rating' ? 'other than' : 'not'} ${words}` : words;
}
