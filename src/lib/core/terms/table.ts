import { ArchiveError } from '../errors';
import type { TermLabel } from '../lists/entries';
import { labelled, type ExchangedTerm } from './exchange';

/** A thesaurus as a table: a term in each row. Several values stand in a cell apart by semicolons; `\;` is one itself. */
export const TERM_COLUMNS = [
  'term',
  'broader',
  'related',
  'also known as',
  'in other languages',
  'found by',
  'scope note',
  'retired',
] as const;
type Column = (typeof TERM_COLUMNS)[number];
type Row = Record<Column, string>;

const joined = (texts: string[]): string =>
  texts.map((text) => text.replace(/[\\;]/g, '\\$&')).join('; ');
const parted = (cell: string): string[] =>
  (cell.match(/(?:\\.|[^\\;])+/gs) ?? [])
    .map((part) => part.replace(/\\(.)/gs, '$1').trim())
    .filter(Boolean);

/** `de: Drachen` */
const inLanguage = ({ lang, label }: TermLabel): string => `${lang}: ${label}`;

export function rowOfTerm(term: ExchangedTerm, labelOf: (key: string) => string): Row {
  const labels = (kind: TermLabel['kind'], say: (one: TermLabel) => string): string =>
    joined(term.labels.filter((one) => one.kind === kind).map(say));
  const tagged = (one: TermLabel): string => (one.lang ? inLanguage(one) : one.label);
  return {
    term: term.label,
    broader: joined(term.broader.map(labelOf)),
    related: joined(term.related.map(labelOf)),
    'also known as': labels('also', tagged),
    'in other languages': labels('preferred', inLanguage),
    'found by': labels('hidden', tagged),
    'scope note': term.note,
    retired: term.retired ? 'yes' : '',
  };
}

/** `de: Drachen` or `pt-BR: pipa`; else of no language. */
const LANGUAGE = /^([a-z]{2,3}(?:-[A-Za-z0-9]{2,8})*):\s+(.+)$/s;

const labelsIn = (kind: TermLabel['kind'], cell = ''): TermLabel[] =>
  parted(cell).map((text) => {
    const [, lang, label] = LANGUAGE.exec(text) ?? [];
    return { kind, lang: lang ?? '', label: label ?? text };
  });

/**
 * Terms of rows by the names of columns; columns but `term` may be missing. What a broader or related term names that has no row of
 * its own is a term as well.
 * @throws ArchiveError value-refused
 */
export function termsFromRows(rows: readonly Record<string, string>[]): ExchangedTerm[] {
  const found = new Map<string, ExchangedTerm>();
  const named = (label: string): ExchangedTerm => {
    const key = label.toLowerCase();
    const own = found.get(key) ?? labelled(label);
    found.set(key, own);
    return own;
  };
  if (rows[0] && !('term' in rows[0]))
    throw new ArchiveError('value-refused', 'The table has no column called “term”.');
  for (const row of rows) {
    const label = (row['term'] ?? '').trim();
    if (label === '') continue;
    const own = named(label);
    own.broader.push(...parted(row['broader'] ?? '').map((above) => named(above).key));
    own.related.push(...parted(row['related'] ?? '').map((other) => named(other).key));
    own.labels.push(
      ...labelsIn('also', row['also known as']),
      ...labelsIn('preferred', row['in other languages']),
      ...labelsIn('hidden', row['found by']),
    );
    own.note ||= (row['scope note'] ?? '').trim();
    own.retired ||= /^(yes|true|1)$/i.test((row['retired'] ?? '').trim());
  }
  return [...found.values()];
}
