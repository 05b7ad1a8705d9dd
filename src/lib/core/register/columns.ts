import type { Field } from '../fields/field';
import { ALL_FIELDS, can, fieldOf } from '../fields/registry';
import { enumWords, unitWords } from '../query/words';
import { writtenAs } from '../records/written';
import { shownDate } from '../text/dateWords';
import { formatBytes, formatDuration } from '../text/quantities';

/** A column of the Register: a field of the registry, and how wide it stands, px. */
export interface Column {
  key: string;
  width: number;
}

export const NARROWEST = 40;
export const WIDEST = 640;
/** More columns than anybody reads. */
export const MOST_COLUMNS = 40;

/** Whatever an item says in one value can be a column; word search says nothing of its own. */
export const COLUMN_FIELDS: readonly Field[] = ALL_FIELDS.filter(({ type }) => type !== 'words');

export const USUAL_COLUMNS: readonly Column[] = [
  { key: 'number', width: 100 },
  { key: 'name', width: 150 },
  { key: 'title', width: 150 },
  { key: 'taken', width: 128 },
  { key: 'rating', width: 52 },
  { key: 'stage', width: 110 },
  { key: 'creditLine', width: 104 },
  { key: 'bytes', width: 66 },
];

/** How wide a column begins. */
const WIDTHS: Partial<Record<Field['type'], number>> = {
  'long-text': 220,
  names: 150,
  number: 84,
  'yes-no': 60,
  date: 128,
  folder: 200,
  position: 130,
};
export const usualWidth = (field: Field): number =>
  USUAL_COLUMNS.find(({ key }) => key === field.key)?.width ?? WIDTHS[field.type] ?? 130;

const within = (width: number): number =>
  Math.round(Math.min(WIDEST, Math.max(NARROWEST, Number.isFinite(width) ? width : NARROWEST)));

/** Columns as a person left them; what is no field any more is left out, nothing at all means the usual ones. */
export function columnsFrom(remembered: unknown): Column[] {
  const list = Array.isArray(remembered) ? (remembered as unknown[]) : [];
  const found: Column[] = [];
  for (const one of list.slice(0, MOST_COLUMNS)) {
    const { key, width } = (one ?? {}) as Partial<Column>;
    const field = typeof key === 'string' ? fieldOf(key) : undefined;
    if (!field || !COLUMN_FIELDS.includes(field) || found.some((other) => other.key === key))
      continue;
    found.push({ key: field.key, width: within(Number(width ?? usualWidth(field))) });
  }
  return found.length > 0 ? found : [...USUAL_COLUMNS];
}

export const resized = (columns: readonly Column[], key: string, width: number): Column[] =>
  columns.map((one) => (one.key === key ? { key, width: within(width) } : one));

/** A column put where another stands. */
export function moved(columns: readonly Column[], key: string, to: number): Column[] {
  const from = columns.findIndex((one) => one.key === key);
  const own = columns[from];
  if (!own) return [...columns];
  const rest = columns.filter((one) => one !== own);
  rest.splice(Math.max(0, Math.min(rest.length, to)), 0, own);
  return rest;
}

/** A field taken in at the end, or out. The last one stays: a table of nothing cannot be read. */
export function toggled(columns: readonly Column[], key: string): Column[] {
  if (!columns.some((one) => one.key === key)) {
    const field = fieldOf(key);
    return field && columns.length < MOST_COLUMNS
      ? [...columns, { key, width: usualWidth(field) }]
      : [...columns];
  }
  return columns.length > 1 ? columns.filter((one) => one.key !== key) : [...columns];
}

/** Fields a cell can be written into: one plain value, or names parted by semicolons. */
export const isPlain = (field: Field): boolean =>
  can(field, 'edit') &&
  (['text', 'long-text', 'names', 'enum', 'position'].includes(field.type) ||
    ['taken', 'rating'].includes(field.key));

const LOCALE = 'en-GB';
const NUMBER = new Intl.NumberFormat(LOCALE, { maximumFractionDigits: 3, useGrouping: false });
const INSTANT = new Intl.DateTimeFormat(LOCALE, {
  dateStyle: 'medium',
  timeStyle: 'short',
  timeZone: 'UTC',
});

/** Seconds of an exposure as photographers say them: `1/250 s`. */
const exposureWords = (seconds: number): string =>
  seconds > 0 && seconds < 0.3 ? `1/${Math.round(1 / seconds)} s` : `${NUMBER.format(seconds)} s`;

/** What a cell says of a field's value. */
export function cellWords(field: Field, value: unknown): string {
  if (value === null || value === undefined || value === '') return '';
  if (field.type === 'yes-no') return value === true ? 'yes' : 'no';
  if (field.type === 'position') return (value as number[]).join(', ');
  if (field.type === 'languages') return writtenAs(value);
  if (Array.isArray(value)) return value.join('; ');
  if (field.type === 'enum') return enumWords(field, String(value));
  if (field.type === 'date') {
    const at = /^\d{4}-\d\d-\d\dT\d\d:\d\d/.test(String(value))
      ? Date.parse(`${String(value).slice(0, 19).replace(/Z?$/, 'Z')}`)
      : NaN;
    return Number.isNaN(at) ? shownDate(String(value)) : INSTANT.format(at);
  }
  if (field.type !== 'number') return String(value);
  const number = Number(value);
  if (field.key === 'rating') return number === 0 ? '' : String(number);
  if (field.unit === 'bytes') return formatBytes(number);
  if (field.key === 'duration') return formatDuration(number);
  if (field.key === 'exposure') return exposureWords(number);
  if (field.key === 'aperture') return `f/${NUMBER.format(number)}`;
  return `${NUMBER.format(number)}${unitWords(field)}`;
}
