import { EMPTY_RECORD, FIELD_KEYS, LIST_KEYS, type FieldKey, type RecordValues } from './fields';

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

/** The most frequent of them, in one order where several are as frequent. */
function ranked(counts: Map<string, number>, most: number): Among[] {
  const first: Among[] = [];
  const isBefore = (a: Among, b: Among): boolean =>
    a.count > b.count || (a.count === b.count && a.text < b.text);
  for (const [text, count] of counts) {
    const one = { text, count };
    const last = first[most - 1];
    if (last && !isBefore(one, last)) continue;
    const at = first.findIndex((other) => isBefore(one, other));
    first.splice(at < 0 ? first.length : at, 0, one);
    if (first.length > most) first.pop();
  }
  return first;
}

/** Values of one field of many records: what is not said is blank. */
export type Columns = { [K in FieldKey]?: readonly RecordValues[K][] };

const keyOf = (value: unknown): string =>
  typeof value === 'string' ? value : JSON.stringify(value);

function mergeField<K extends FieldKey>(
  key: K,
  said: readonly RecordValues[K][],
  count: number,
): MergedField<K> {
  const counts = new Map<string, number>();
  const elements = new Map<string, number>();
  const raise = (of: Map<string, number>, text: string, by = 1): void =>
    void of.set(text, (of.get(text) ?? 0) + by);
  for (const value of said) {
    raise(counts, keyOf(value));
    if (LISTS.has(key)) for (const element of value as string[]) raise(elements, element);
  }
  if (said.length < count) raise(counts, keyOf(EMPTY_RECORD[key]), count - said.length);
  const value = said[0] ?? EMPTY_RECORD[key];
  const mixed = counts.size > 1 ? counts.size : 0;
  if (LISTS.has(key)) return { value, mixed, among: ranked(elements, MOST_ELEMENTS) };
  return {
    value,
    mixed,
    among: mixed && typeof value === 'string' ? ranked(counts, MOST_VALUES) : [],
  };
}

/**
 * Lay records over each other; terms are merged by how they are spread instead.
 * @param records what each of them says, blanks left out
 * @param columns fields told apart from them, a value for each record
 */
export function merge(records: readonly Partial<RecordValues>[], columns: Columns = {}): Merged {
  const told = new Map<string, unknown[]>(Object.entries(columns) as [FieldKey, unknown[]][]);
  for (const record of records)
    for (const key of Object.keys(record) as FieldKey[]) {
      if (key in columns) continue;
      const list = told.get(key);
      if (list) list.push(record[key]);
      else told.set(key, [record[key]]);
    }
  return Object.fromEntries(
    FIELD_KEYS.map((key) => [
      key,
      mergeField(key, (told.get(key) ?? []) as RecordValues[typeof key][], records.length),
    ]),
  ) as Merged;
}

export interface Balance {
  term: string;
  count: number;
  /** Every one of them has it. */
  all: boolean;
}

/** How terms are spread over so many records, the most given first. */
export const balance = (given: readonly { term: string; count: number }[], of: number): Balance[] =>
  given
    .map(({ term, count }) => ({ term, count, all: count === of }))
    .sort((a, b) => b.count - a.count || a.term.localeCompare(b.term));

/** What is said of a choice of items, however many. */
export interface Summary {
  count: number;
  /** Catalogue number where it is one item. */
  number: string | null;
  merged: Merged | null;
  terms: Balance[];
  /** How many terms are given beside these. */
  moreTerms: number;
  /** How many have no credit line. */
  lackCredit: number;
  /** Versions by item, by which later changes of others are told; of a few items only. */
  versions: Record<string, number>;
}

/** Terms that are told of a choice, the most given first. */
export const MOST_TERMS = 300;
/** Of more items than these nobody is told that a single one changed meanwhile. */
export const MOST_VERSIONS = 2000;
