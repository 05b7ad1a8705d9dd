import { LIST_KEYS, type FieldKey, type RecordValues } from '#core/records/fields';
import { merge, type FieldSpread, type Merged } from '#core/records/merge';

const LISTS: readonly string[] = LIST_KEYS;

function counted(texts: readonly string[]): { text: string; count: number }[] {
  const counts = new Map<string, number>();
  for (const text of texts) counts.set(text, (counts.get(text) ?? 0) + 1);
  return [...counts]
    .map(([text, count]) => ({ text, count }))
    .sort((a, b) => b.count - a.count || (a.text < b.text ? -1 : 1));
}

function spreadOf(key: FieldKey, said: readonly unknown[]): FieldSpread {
  const values = counted(said.map((value) => JSON.stringify(value)));
  return {
    different: values.length,
    said: said.length,
    values: values.map(({ text, count }) => ({ value: JSON.parse(text) as unknown, count })),
    elements: LISTS.includes(key) ? counted((said as string[][]).flat()) : [],
  };
}

/** Records laid over each other, each looked at: the plain way, by which what the database counts is judged. */
export function mergeAll(records: readonly Partial<RecordValues>[]): Merged {
  const told = new Map<FieldKey, unknown[]>();
  for (const record of records)
    for (const [key, value] of Object.entries(record) as [FieldKey, unknown][]) {
      const list = told.get(key);
      if (list) list.push(value);
      else told.set(key, [value]);
    }
  const spread = new Map([...told].map(([key, said]) => [key, spreadOf(key, said)]));
  return merge(spread, records.length);
}
