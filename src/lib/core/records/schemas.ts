import { z } from 'zod';
import { formatPosition, parsePosition } from '../geo/position';
import type { Field } from '../fields/field';
import {
  FIELD_KEYS,
  FIELDS,
  inOrder,
  LIST_KEYS,
  shapeOf,
  type Shape,
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
const MOST_LANGUAGES = 30;
/** BCP 47, as far as people write it. */
const language = z
  .string()
  .regex(/^[A-Za-z]{2,3}(-[A-Za-z0-9]{2,8}){0,4}$/, 'A language reads like de or pt-BR');
const languages = z
  .record(language, text(4000))
  .refine((all) => Object.keys(all).length <= MOST_LANGUAGES, 'There are too many languages')
  .transform(inOrder);

const position = z
  .string()
  .max(200)
  .transform((typed, context) => {
    const text = clean(typed);
    const found = parsePosition(text);
    if (!found && text !== '')
      context.addIssue({ code: 'custom', message: 'A position reads like 54.3207, 10.1349' });
    return found ? formatPosition(found) : '';
  });

const takenShape = z.object({
  edtf: z.string().max(200),
  from: z.string().max(40),
  to: z.string().max(40),
  offset: z.number().nullable(),
});

function schemaOf(field: Field): z.ZodType {
  if (field.whole)
    return text(field.most ?? LONGEST).refine((value) => /^\d*$/.test(value), {
      message: `${field.label} is a whole number`,
    });
  return field.type === 'position'
    ? position
    : SHAPES[shapeOf(field)](
        field.key === 'terms' ? MOST_TERMS : MOST_NAMES,
        field.most ?? LONGEST,
      );
}
/** What values of a shape may be. @param many values of a list @param most characters of a text */
const SHAPES: Record<Shape, (many: number, most: number) => z.ZodType> = {
  taken: () => takenShape.nullable(),
  list: (many, most) => z.array(text(most)).max(many),
  languages: () => languages,
  number: () => z.number().int().min(-1).max(5),
  text: (_, most) => text(most),
};
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
