import { ArchiveError } from '../errors';
import type { TermEntry, TermLabel } from '../lists/entries';
import {
  LONGEST_LABEL,
  LONGEST_NOTE,
  MOST_BROADER,
  MOST_LABELS,
  MOST_TERMS,
} from '../lists/limits';
import { counted } from '../text/quantities';

/**
 * A thesaurus as it goes in and out of files. Terms name one another by keys: what an address or a label is in the file.
 */
export interface ExchangedTerm {
  key: string;
  /** Its id where the file says one that may be ours. */
  id: string | null;
  label: string;
  labels: TermLabel[];
  /** Keys. */
  broader: string[];
  related: string[];
  note: string;
  retired: boolean;
}

/** A term of which nothing is told but its label. */
export const labelled = (label: string): ExchangedTerm => ({
  key: label.toLowerCase(),
  id: null,
  label,
  labels: [],
  broader: [],
  related: [],
  note: '',
  retired: false,
});

export const EXCHANGE_FORMS = {
  ttl: { label: 'SKOS, Turtle', type: 'text/turtle' },
  jsonld: { label: 'SKOS, JSON-LD', type: 'application/ld+json' },
  csv: { label: 'CSV', type: 'text/csv' },
  txt: { label: 'Indented text', type: 'text/plain' },
} as const;
export type ExchangeForm = keyof typeof EXCHANGE_FORMS;

/** What an entry of some id is to be; a new id has no `before`. */
export interface TermChange {
  id: string;
  before: TermEntry | null;
  after: TermEntry;
}

const lower = (text: string): string => text.toLowerCase();

const sameLabels = (a: TermLabel, b: TermLabel): boolean =>
  a.kind === b.kind && a.lang === b.lang && a.label === b.label;

/** As entries are kept: each label and reference once, in order. */
export function tidied(entry: TermEntry): TermEntry {
  const seen = new Set<string>();
  const labels = entry.labels
    .filter(({ kind, lang, label }) => {
      const key = `${lang}\n${label}`;
      if (label === '' || (lang === '' && label === entry.label)) return false;
      if (kind !== 'preferred' && seen.has(key)) return false;
      seen.add(key);
      return true;
    })
    .sort(
      (a, b) => compare(a.kind, b.kind) || compare(a.lang, b.lang) || compare(a.label, b.label),
    );
  const ids = (list: string[]): string[] => [...new Set(list)].sort(compare);
  return { ...entry, labels, broader: ids(entry.broader), related: ids(entry.related) };
}
const compare = (a: string, b: string): number => (a < b ? -1 : a > b ? 1 : 0);

/** Labels on a way from a term back to itself over broader ones; null where there is none. */
export function circleIn(
  entries: ReadonlyMap<string, Pick<TermEntry, 'label' | 'broader'>>,
): string[] | null {
  const done = new Set<string>();
  for (const start of entries.keys()) {
    // A way down the stack, with what is still to be looked at of each.
    const way: { id: string; rest: string[] }[] = [];
    const open = new Set<string>();
    const enter = (id: string): void => {
      way.push({ id, rest: [...(entries.get(id)?.broader ?? [])] });
      open.add(id);
    };
    if (!done.has(start)) enter(start);
    while (way.length > 0) {
      const top = way.at(-1)!;
      const next = top.rest.pop();
      if (next === undefined) {
        done.add(top.id);
        open.delete(top.id);
        way.pop();
      } else if (open.has(next)) {
        const from = way.findIndex(({ id }) => id === next);
        return way.slice(from).map(({ id }) => entries.get(id)?.label ?? '');
      } else if (!done.has(next) && entries.has(next)) enter(next);
    }
  }
  return null;
}

/** @throws ArchiveError value-refused where terms would stand under themselves */
export function refuseCircle(
  entries: ReadonlyMap<string, Pick<TermEntry, 'label' | 'broader'>>,
): void {
  const circle = circleIn(entries);
  if (circle)
    throw new ArchiveError(
      'value-refused',
      `A term cannot stand under itself: ${[...circle.slice(0, 5), circle[0]!].join(' under ')}.`,
    );
}

/** Which term of ours each of a file is: by id, then by label, then by what one alone is also known as. */
function matched(
  held: ReadonlyMap<string, TermEntry>,
  given: readonly ExchangedTerm[],
  newId: () => string,
): Map<string, string> {
  const byLabel = new Map([...held].map(([id, { label }]) => [lower(label), id]));
  const ids = new Map<string, string>();
  const made = new Map<string, string>();
  for (const { key, id, label } of given) {
    const known = id && held.has(id) ? id : (byLabel.get(lower(label)) ?? made.get(lower(label)));
    const own = known ?? (id && !held.has(id) ? id : newId());
    if (!known) made.set(lower(label), own);
    ids.set(key, own);
  }
  return ids;
}

function joined(before: TermEntry, told: TermEntry): TermEntry {
  const labels = [...before.labels];
  for (const one of told.labels) {
    const taken =
      one.kind === 'preferred' &&
      labels.some(({ kind, lang }) => kind === 'preferred' && lang === one.lang);
    const own: TermLabel = taken ? { ...one, kind: 'also' } : one;
    if (!labels.some((held) => sameLabels(held, own))) labels.push(own);
  }
  if (lower(told.label) !== lower(before.label))
    labels.push({ kind: 'also', lang: '', label: told.label });
  return {
    label: before.label,
    labels,
    broader: [...before.broader, ...told.broader],
    related: [...before.related, ...told.related],
    note: before.note || told.note,
    retired: before.retired,
  };
}

/**
 * What a file would change: it adds to terms that are held, or makes them as it says; terms it does not name stay.
 * @throws ArchiveError value-refused where it holds too much, or makes terms stand under themselves
 */
export function plannedImport(
  held: ReadonlyMap<string, TermEntry>,
  given: readonly ExchangedTerm[],
  mode: 'add' | 'replace',
  newId: () => string,
): TermChange[] {
  refuseTooMuch(given);
  const ids = matched(held, given, newId);
  const after = new Map<string, TermEntry>();
  const idsOf = (keys: string[], own: string): string[] =>
    keys.flatMap((key) => ids.get(key) ?? []).filter((id) => id !== own);
  for (const { key, label, labels, broader, related, note, retired } of given) {
    const id = ids.get(key)!;
    const told: TermEntry = {
      label,
      labels,
      note,
      retired,
      broader: idsOf(broader, id),
      related: idsOf(related, id),
    };
    const before = after.get(id) ?? held.get(id);
    const isAgain = after.has(id);
    after.set(id, tidied(before && (mode === 'add' || isAgain) ? joined(before, told) : told));
  }
  mirrored(held, after);
  const all = new Map([...held, ...after]);
  refuseCircle(all);
  refuseTwice(all);
  return [...after]
    .map(([id, entry]) => ({ id, before: held.get(id) ?? null, after: entry }))
    .filter(({ before, after: entry }) => !before || said(before) !== said(entry));
}

/** What an entry says, whatever order it was put together in. */
const said = ({ label, labels, broader, related, note, retired }: TermEntry): string =>
  JSON.stringify([
    ...[label, broader, related, note, retired],
    labels.map((one) => [one.kind, one.lang, one.label]),
  ]);

/** To be related is mutual: whoever is named names back. */
function mirrored(held: ReadonlyMap<string, TermEntry>, after: Map<string, TermEntry>): void {
  const pairs = [...after].flatMap(([id, { related }]) =>
    related.map((other) => [other, id] as const),
  );
  for (const [other, id] of pairs) {
    const entry = after.get(other) ?? held.get(other);
    if (!entry || entry.related.includes(id)) continue;
    after.set(other, tidied({ ...entry, related: [...entry.related, id] }));
  }
  // Taken from one, a relation is taken from the other.
  for (const [id, entry] of after)
    for (const other of held.get(id)?.related ?? []) {
      if (entry.related.includes(other)) continue;
      const mate = after.get(other) ?? held.get(other);
      if (mate?.related.includes(id) && !after.get(other)?.related.includes(id))
        after.set(other, tidied({ ...mate, related: mate.related.filter((one) => one !== id) }));
    }
}

function refuseTwice(all: ReadonlyMap<string, TermEntry>): void {
  const seen = new Set<string>();
  for (const { label } of all.values()) {
    if (seen.has(lower(label)))
      throw new ArchiveError('value-refused', `Two terms would be called “${label}”.`);
    seen.add(lower(label));
  }
}

function refuseTooMuch(given: readonly ExchangedTerm[]): void {
  if (given.length > MOST_TERMS)
    throw new ArchiveError(
      'value-refused',
      `It holds ${counted(given.length, 'term')}; ${counted(MOST_TERMS, 'term')} is the most at once.`,
    );
  for (const { label, labels, note, broader, related } of given) {
    const long = [label, ...labels.map((one) => one.label)].find(
      (text) => text.length > LONGEST_LABEL,
    );
    if (long !== undefined || label.trim() === '')
      throw new ArchiveError(
        'value-refused',
        long === undefined
          ? 'A term has no label.'
          : `“${long.slice(0, 60)} …” is longer than ${LONGEST_LABEL} characters.`,
      );
    if (labels.length > MOST_LABELS || note.length > LONGEST_NOTE)
      throw new ArchiveError('value-refused', `“${label}” says more than a term can hold.`);
    if (broader.length > MOST_BROADER || related.length > MOST_BROADER)
      throw new ArchiveError(
        'value-refused',
        `“${label}” names more than ${MOST_BROADER} broader or related terms.`,
      );
  }
}

/** Entries as they go out: keys are ids. */
export const exchanged = (entries: ReadonlyMap<string, TermEntry>): ExchangedTerm[] =>
  [...entries]
    .map(([id, entry]) => ({ key: id, id, ...entry }))
    .sort((a, b) => compare(lower(a.label), lower(b.label)));
