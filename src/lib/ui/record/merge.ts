import { FIELD_KEYS, type FieldKey, type RecordValues } from '#core/records/fields';

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
