import { z } from 'zod';
import type { Field } from '../fields/field';
import { ALL_FIELDS, type RecordEntry } from '../fields/registry';
import type { Taken } from './taken';

/** The record: the entries of the registry that people describe, and what their values may be. */
export type FieldKey = RecordEntry['key'];

const ENTRIES = ALL_FIELDS.filter(({ part }) => part === 'record') as (Field & { key: FieldKey })[];

export const FIELD_KEYS: readonly FieldKey[] = ENTRIES.map(({ key }) => key);
export const FIELDS = Object.fromEntries(
  ENTRIES.map((field) => [field.key, field]),
) as unknown as Record<FieldKey, Field & { key: FieldKey; xmp: string }>;

type ValueOf<E extends RecordEntry> = E['key'] extends 'taken'
  ? Taken | null
  : E['key'] extends 'terms'
    ? string[]
    : E['type'] extends 'names'
      ? string[]
      : E['type'] extends 'number'
        ? number
        : string;

/** The values of a record. Empty text and empty lists mean: not described. */
export type RecordValues = { [E in RecordEntry as E['key']]: ValueOf<E> };

/** What a value of a record is made of. */
export type Shape = 'text' | 'list' | 'number' | 'taken';
export function shapeOf({ key, type, many }: Field): Shape {
  if (key === 'taken') return 'taken';
  if (many) return 'list';
  return type === 'number' ? 'number' : 'text';
}

/** NUL cannot be kept in a database text nor in IIM; a record never holds it. */
const clean = (text: string): string => text.replaceAll('\0', '').trim();
const text = (max: number) => z.string().max(max).transform(clean);
const LONGEST = 2000;
const MOST_NAMES = 50;
const MOST_TERMS = 500;
const takenShape = z.object({
  edtf: z.string(),
  from: z.string(),
  to: z.string(),
  offset: z.number().nullable(),
});

function schemaOf(field: Field): z.ZodType {
  const most = field.most ?? LONGEST;
  switch (shapeOf(field)) {
    case 'taken':
      return takenShape.nullable();
    case 'list':
      return z.array(text(most)).max(field.key === 'terms' ? MOST_TERMS : MOST_NAMES);
    case 'number':
      return z.number().int().min(-1).max(5);
    default:
      return text(most);
  }
}
/** What the value of each field may be. */
export const VALUES = Object.fromEntries(ENTRIES.map((field) => [field.key, schemaOf(field)])) as {
  [K in FieldKey]: z.ZodType<RecordValues[K]>;
};

export const recordSchema = z.object(VALUES) as unknown as z.ZodType<RecordValues>;

const EMPTY: Record<Shape, unknown> = { text: '', list: [], number: 0, taken: null };
export const EMPTY_RECORD = Object.fromEntries(
  ENTRIES.map((field) => [field.key, EMPTY[shapeOf(field)]]),
) as RecordValues;

/**
 * A change to one or many records. `addTerms` and `removeTerms` leave the other terms as they are;
 * `taken` is text (EDTF or a moment), empty to forget the date.
 */
export type RecordChange = Partial<Omit<RecordValues, 'taken'>> & {
  taken?: string;
  addTerms?: string[];
  removeTerms?: string[];
};
export const changeSchema = z
  .object({
    ...VALUES,
    taken: z.string().max(100),
    addTerms: z.array(text(200)).max(MOST_TERMS),
    removeTerms: z.array(text(200)).max(MOST_TERMS),
  })
  .partial()
  .strict() as unknown as z.ZodType<RecordChange>;

/** Where a value came from. */
export type ValueSource = 'file' | 'person' | 'intake';
