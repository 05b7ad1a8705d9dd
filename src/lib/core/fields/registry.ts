import type { Field, Use } from './field';
import { TABLE } from './table';

/** Ways to ask the table of fields. */
type Entry = (typeof TABLE)[number];
/** Entries of the record: what people describe. */
export type RecordEntry = Extract<Entry, { part: 'record' }>;

/** Every field in the order of the table. */
export const ALL_FIELDS: readonly Field[] = TABLE;

const BY_KEY = new Map<string, Field>(ALL_FIELDS.map((field) => [field.key, field]));

/** The field of a key; undefined where there is none. */
export const fieldOf = (key: string): Field | undefined => BY_KEY.get(key);

/** The field of a key that is known to be one. @throws TypeError */
export function knownField(key: string): Field {
  const field = BY_KEY.get(key);
  if (!field) throw new TypeError(`there is no field “${key}”`);
  return field;
}

export const can = (field: Field, use: Use): boolean => field.uses.includes(use);
export const fieldsThatCan = (use: Use): Field[] => ALL_FIELDS.filter((field) => can(field, use));

const withArticle = (label: string): string => {
  const word = /^[A-Z]{2}/.test(label) ? label : label[0]!.toLowerCase() + label.slice(1);
  return `${/^[aeiou]/i.test(word) ? 'an' : 'a'} ${word}`;
};
/** `with a title`, `credited` */
export const hasWords = (field: Field): string => field.has ?? `with ${withArticle(field.label)}`;
/** `without a title`, `not yet credited` */
export const lacksWords = (field: Field): string =>
  field.lacks ?? `without ${withArticle(field.label)}`;
/** The words a condition on the field begins with: `about`, `title`. */
export const leadOf = (field: Field): string =>
  field.says ??
  (/^[A-Z]{2}/.test(field.label)
    ? field.label
    : field.label[0]!.toLowerCase() + field.label.slice(1));
