import { FIELD_KEYS, type FieldKey, type RecordValues } from './fields';

/** A field over many records: the one value all share, or how many different ones there are. */
export type Merged = { [K in FieldKey]: { value: RecordValues[K]; mixed: number } };

/** Lay records over each other; terms are merged by {@link balance} instead. */
export function merge(records: { values: RecordValues }[]): Merged {
  const merged = FIELD_KEYS.map((key) => {
    const texts = new Set(records.map(({ values }) => JSON.stringify(values[key])));
    return [key, { value: records[0]!.values[key], mixed: texts.size > 1 ? texts.size : 0 }];
  });
  return Object.fromEntries(merged) as Merged;
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
