import { z } from 'zod';
import type { Field } from '../fields/field';
import {
  FIELD_KEYS,
  FIELDS,
  LIST_KEYS,
  shapeOf,
  type FieldKey,
  type RecordChange,
  type RecordValues,
} from './fields';

/** What the values of a record may be, as far as types cannot say. The interface does without this. */

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
export const VALUES = Object.fromEntries(FIELD_KEYS.map((key) => [key, schemaOf(FIELDS[key])])) as {
  [K in FieldKey]: z.ZodType<RecordValues[K]>;
};

export const recordSchema = z.object(VALUES) as unknown as z.ZodType<RecordValues>;

const elements = z
  .object(Object.fromEntries(LIST_KEYS.map((key) => [key, VALUES[key]])))
  .partial()
  .strict();
export const changeSchema = z
  .object({
    ...VALUES,
    taken: z.string().max(100),
    addTerms: z.array(text(200)).max(MOST_TERMS),
    removeTerms: z.array(text(200)).max(MOST_TERMS),
    add: elements,
    remove: elements,
  })
  .partial()
  .strict() as unknown as z.ZodType<RecordChange>;
