import { parse } from 'csv-parse/sync';
import { FIELDS, type FieldKey, type RecordChange, type RecordValues } from './fields';
import { VALUES } from './schemas';
import { takenFromText } from './taken';
import { valueWritten, writtenAs } from './written';

/** A column of a spreadsheet laid over items: a line for each, in their order. */
export interface ColumnLine {
  id: string;
  number: string;
  before: string;
  after: string;
  problem: string | null;
}

/**
 * Cells of a pasted column, of several columns the first. Spreadsheets part rows by line breaks, columns by tabs,
 * and put cells that hold either into quotes as RFC 4180 does.
 */
export const linesOf = (text: string): string[] =>
  parse(text, {
    delimiter: '\t',
    relax_column_count: true,
    relax_quotes: true,
    record_delimiter: ['\r\n', '\n', '\r'],
    skip_empty_lines: false,
  }).map(([cell = '']: string[]) => cell);

/** As a value of the field is shown: what reads the same is the same. */
const wordsOf = (key: FieldKey, value: unknown): string => {
  const known = FIELDS[key].values?.find((one) => one.key === value);
  if (known) return known.label;
  return writtenAs(value);
};

/** The change a line asks for; null where the field cannot hold it. */
export function changeOfLine(key: FieldKey, line: string): RecordChange | null {
  const field = FIELDS[key];
  const text = line.trim();
  if (key === 'taken') return text === '' || takenFromText(text) ? { taken: text } : null;
  if (field.type === 'enum' && text !== '') {
    const found = field.values?.find(
      (one) => one.key === text || one.label.toLowerCase() === text.toLowerCase(),
    );
    return found ? { [key]: found.key } : null;
  }
  if (key === 'terms') return null;
  const parsed = VALUES[key].safeParse(valueWritten(field, text));
  return parsed.success ? { [key]: parsed.data } : null;
}

/** What laying lines over items would do. Items beyond the last line stay; lines beyond the last item are not used. */
export function columnOver(
  key: FieldKey,
  lines: readonly string[],
  items: readonly { id: string; number: string; values: RecordValues }[],
): ColumnLine[] {
  return items.slice(0, lines.length).map(({ id, number, values }, at) => {
    const before = wordsOf(key, values[key]);
    const change = changeOfLine(key, lines[at]!);
    const next = key === 'taken' ? takenFromText(change?.taken ?? '') : change?.[key];
    return {
      id,
      number,
      before,
      after: change ? wordsOf(key, next) : before,
      problem: change ? null : `“${lines[at]!.slice(0, 60)}” is no value of this field`,
    };
  });
}
