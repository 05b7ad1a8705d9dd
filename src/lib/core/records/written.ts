import type { Field } from '../fields/field';

/** What is written into a cell, as a change of the record. */
export function valueWritten(field: Field, text: string): string | number | string[] {
  if (field.type === 'names')
    return text
      .split(';')
      .map((name) => name.trim())
      .filter(Boolean);
  return field.key === 'rating' ? Number(text.trim() || 0) : text.trim();
}

/** What a cell that is written into begins with. */
export const writtenAs = (value: unknown): string =>
  Array.isArray(value)
    ? value.join('; ')
    : value === null || value === undefined
      ? ''
      : String(value);
