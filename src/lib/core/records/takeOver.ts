import { FIELD_KEYS, FIELDS, type FieldKey, type RecordValues } from './fields';

/** Whether a value says nothing. */
export const isBlank = (value: RecordValues[FieldKey]): boolean =>
  Array.isArray(value)
    ? value.length === 0
    : typeof value === 'object' && value !== null && !('edtf' in value)
      ? Object.keys(value).length === 0
      : !value;

/** Values are plain: texts, numbers, lists, and a date whose parts stand in one order. */
const isSame = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);

const missingTerms = (held: RecordValues, told: RecordValues): string[] => {
  const known = new Set(held.terms.map((term) => term.toLowerCase()));
  return told.terms.filter((term) => !known.has(term.toLowerCase()));
};

/** The fields in which a file tells something else of the same picture; what it leaves blank says nothing. */
export const toldDifferently = (held: RecordValues, told: RecordValues): FieldKey[] =>
  FIELD_KEYS.filter((key) =>
    key === 'terms'
      ? missingTerms(held, told).length > 0
      : !isBlank(told[key]) && !isSame(held[key], told[key]),
  );

/** The record once a file's description was taken over: its values replace, its terms are added. */
export function takenOver(held: RecordValues, told: RecordValues): RecordValues {
  const keys = toldDifferently(held, told).filter((key) => key !== 'terms');
  return {
    ...held,
    ...Object.fromEntries(keys.map((key) => [key, told[key]])),
    terms: [...held.terms, ...missingTerms(held, told)],
  };
}

/** `title, credit line` */
export const fieldWords = (keys: readonly FieldKey[]): string =>
  keys.map((key) => FIELDS[key].label.toLowerCase()).join(', ');
