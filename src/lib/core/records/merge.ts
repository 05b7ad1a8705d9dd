import { FIELD_KEYS, LIST_KEYS, type FieldKey, type RecordValues } from './fields';

/** A value of a field among many records, or an element of a list, and how many have it. */
export interface Among {
  text: string;
  count: number;
}

/** A field over many records. */
export interface MergedField<K extends FieldKey> {
  /** The one value all share; that of the first where they differ. */
  value: RecordValues[K];
  /** How many different values there are; 0 where all share one. */
  mixed: number;
  /** Texts: the most frequent values where they differ. Lists: every element. */
  among: Among[];
}
export type Merged = { [K in FieldKey]: MergedField<K> };

/** So many values of a mixed field are told, and so many elements of a list. */
const MOST_VALUES = 5;
const MOST_ELEMENTS = 200;
const LISTS: ReadonlySet<FieldKey> = new Set(LIST_KEYS);

const ranked = (counts: Map<string, number>, most: number): Among[] =>
  [...counts]
    .sort(([a, many], [b, fewer]) => fewer - many || a.localeCompare(b))
    .slice(0, most)
    .map(([text, count]) => ({ text, count }));

function mergeField<K extends FieldKey>(
  key: K,
  records: readonly { values: RecordValues }[],
): MergedField<K> {
  const counts = new Map<string, number>();
  const elements = new Map<string, number>();
  const raise = (of: Map<string, number>, text: string): void =>
    void of.set(text, (of.get(text) ?? 0) + 1);
  for (const { values } of records) {
    const value = values[key];
    raise(counts, typeof value === 'string' ? value : JSON.stringify(value));
    if (LISTS.has(key)) for (const element of value as string[]) raise(elements, element);
  }
  const value = records[0]!.values[key];
  const mixed = counts.size > 1 ? counts.size : 0;
  if (LISTS.has(key)) return { value, mixed, among: ranked(elements, MOST_ELEMENTS) };
  return {
    value,
    mixed,
    among: mixed && typeof value === 'string' ? ranked(counts, MOST_VALUES) : [],
  };
}

/** Lay records over each other; terms are merged by {@link balance} instead. */
export function merge(records: readonly { values: RecordValues }[]): Merged {
  return Object.fromEntries(FIELD_KEYS.map((key) => [key, mergeField(key, records)])) as Merged;
}

export interface Balance {
  term: string;
  count: number;
  /** Every one of them has it. */
  all: boolean;
}

/** How terms are spread over records: some or all. */
export function balance(records: { values: RecordValues }[]): Balance[] {
  const counts = new Map<string, number>();
  for (const { values } of records)
    for (const term of values.terms) counts.set(term, (counts.get(term) ?? 0) + 1);
  return [...counts]
    .map(([term, count]) => ({ term, count, all: count === records.length }))
    .sort((a, b) => b.count - a.count || a.term.localeCompare(b.term));
}

/** What is said of a choice of items, however many. */
export interface Summary {
  count: number;
  /** Catalogue number where it is one item. */
  number: string | null;
  merged: Merged | null;
  terms: Balance[];
  /** How many have no credit line. */
  lackCredit: number;
  /** Versions by item, by which later changes of others are told; of a few items only. */
  versions: Record<string, number>;
}

/** Of more items than these nobody is told that a single one changed meanwhile. */
const MOST_VERSIONS = 2000;

export const summaryOf = (
  records: { id: string; number: string; version: number; values: RecordValues }[],
): Summary => ({
  count: records.length,
  number: records.length === 1 ? records[0]!.number : null,
  merged: records.length > 0 ? merge(records) : null,
  terms: balance(records),
  lackCredit: records.filter(({ values }) => values.creditLine === '').length,
  versions:
    records.length > MOST_VERSIONS
      ? {}
      : Object.fromEntries(records.map(({ id, version }) => [id, version])),
});
