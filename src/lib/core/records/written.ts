import type { Field } from '../fields/field';
import type { Languages } from './fields';
import type { Taken } from './taken';

/** Parts one language from the next; a line feed never stands in a cell. */
const BETWEEN = ' | ';

/** What is written into a cell, as a change of the record. */
export function valueWritten(field: Field, text: string): string | number | string[] | Languages {
  if (field.type === 'names')
    return text
      .split(';')
      .map((name) => name.trim())
      .filter(Boolean);
  if (field.type === 'languages')
    return Object.fromEntries(
      text
        .split(BETWEEN)
        .map((one) => /^\s*([^:]*?)\s*:\s*(.*)$/s.exec(one))
        .flatMap((found) => (found ? [[found[1]!, found[2]!.trim()]] : [])),
    ) as Languages;
  return field.key === 'rating' ? Number(text.trim() || 0) : text.trim();
}

/** What a cell that is written into begins with; a date as EDTF. */
export function writtenAs(value: unknown): string {
  if (Array.isArray(value)) return value.join('; ');
  if (value === null || value === undefined) return '';
  if (typeof value !== 'object') return String(value as string | number | boolean);
  if ('edtf' in value) return (value as Taken).edtf;
  return Object.entries(value as Languages)
    .map(([language, text]) => `${language}: ${text}`)
    .join(BETWEEN);
}
