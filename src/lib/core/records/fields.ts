import type { Field } from '../fields/field';
import { ALL_FIELDS, type RecordEntry } from '../fields/registry';
import { TYPES } from '../fields/types';
import type { Taken } from './taken';

/** The record: the entries of the registry that people describe, and what their values may be. */
export type FieldKey = RecordEntry['key'];

const ENTRIES = ALL_FIELDS.filter(({ part }) => part === 'record') as (Field & { key: FieldKey })[];

export const FIELD_KEYS: readonly FieldKey[] = ENTRIES.map(({ key }) => key);
export const FIELDS = Object.fromEntries(
  ENTRIES.map((field) => [field.key, field]),
) as unknown as Record<FieldKey, Field & { key: FieldKey; xmp: string }>;

/** What a text says in other languages: BCP 47 → text, in the order of the languages. */
export type Languages = Record<string, string>;

/** Texts by language in one order, without empty ones: what says the same is the same. */
export const inOrder = (all: Languages): Languages =>
  Object.fromEntries(
    Object.entries(all)
      .filter(([, text]) => text !== '')
      .sort(([a], [b]) => (a < b ? -1 : 1)),
  );

type ValueOf<E extends RecordEntry> = E['key'] extends 'taken'
  ? Taken | null
  : E['key'] extends 'terms'
    ? string[]
    : E['type'] extends 'languages'
      ? Languages
      : E['type'] extends 'names'
        ? string[]
        : E['type'] extends 'number'
          ? number
          : string;

/** The values of a record. Empty text and empty lists mean: not described. */
export type RecordValues = { [E in RecordEntry as E['key']]: ValueOf<E> };

/** What a value of a record is made of. */
export type Shape = 'text' | 'list' | 'number' | 'taken' | 'languages';
export function shapeOf({ key, type, many }: Field): Shape {
  if (key === 'taken') return 'taken';
  return many ? 'list' : TYPES[type].shape;
}

const EMPTY: Record<Shape, unknown> = { text: '', list: [], number: 0, taken: null, languages: {} };
export const EMPTY_RECORD = Object.fromEntries(
  ENTRIES.map((field) => [field.key, EMPTY[shapeOf(field)]]),
) as RecordValues;

/** Texts that may say the same in other languages, and the fields that hold those. */
export type TextKey = { [K in FieldKey]: RecordValues[K] extends string ? K : never }[FieldKey];
export type LanguagesKey = {
  [K in FieldKey]: RecordValues[K] extends Languages
    ? string extends keyof RecordValues[K]
      ? K
      : never
    : never;
}[FieldKey];
export const LANGUAGES: readonly { text: TextKey; others: LanguagesKey }[] = ENTRIES.filter(
  ({ languagesOf }) => languagesOf,
).map(({ key, languagesOf }) => ({ text: languagesOf as TextKey, others: key as LanguagesKey }));

/** Fields that hold lists of names; terms have their own ways. */
export type ListKey = Exclude<
  { [K in FieldKey]: RecordValues[K] extends string[] ? K : never }[FieldKey],
  'terms'
>;
export const LIST_KEYS = ENTRIES.filter(
  (field) => shapeOf(field) === 'list' && field.key !== 'terms',
).map(({ key }) => key) as ListKey[];

/**
 * A change to one or many records. `addTerms` and `removeTerms` leave the other terms as they are, `add` and
 * `remove` the other elements of lists; `taken` is text (EDTF or a moment), empty to forget the date.
 */
export type RecordChange = Partial<Omit<RecordValues, 'taken'>> & {
  taken?: string;
  addTerms?: string[];
  removeTerms?: string[];
  add?: Partial<Record<ListKey, string[]>>;
  remove?: Partial<Record<ListKey, string[]>>;
};
/** Where a value came from. */
export type ValueSource = 'file' | 'person' | 'intake';
