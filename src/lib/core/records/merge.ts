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
export const MOST_VALUES = 5;
export const MOST_ELEMENTS = 200;
const LISTS: ReadonlySet<FieldKey> = new Set(LIST_KEYS);

/** How what many records say in a field is spread; blanks may be left out. */
export interface FieldSpread {
  /** How many different values are said. */
  different: number;
  /** How many records say one of them. */
  said: number;
  /** The most frequent values, as {@link MOST_VALUES}. */
  values: { value: unknown; count: number }[];
  /** Of lists the most frequent elements, as {@link MOST_ELEMENTS}. */
  elements: Among[];
}
export type Spread = ReadonlyMap<FieldKey, FieldSpread>;

const UNSAID: FieldSpread = { different: 0, said: 0, values: [], elements: [] };

/** The most frequent first, in one order where several are as frequent. */
const byCount = (a: Among, b: Among): number => b.count - a.count || (a.text < b.text ? -1 : 1);

function mergeField<K extends FieldKey>(key: K, spread: FieldSpread, of: number): MergedField<K> {
  const blank = EMPTY_RECORD[key];
  const unsaid = of - spread.said;
  const different = spread.different + (unsaid > 0 ? 1 : 0);
  const mixed = different > 1 ? different : 0;
  const value = (spread.values[0]?.value ?? blank) as RecordValues[K];
  if (LISTS.has(key)) return { value, mixed, among: spread.elements };
  if (!mixed || typeof blank !== 'string') return { value, mixed, among: [] };
  const said = spread.values.map((one) => ({ text: one.value as string, count: one.count }));
  const all = unsaid > 0 ? [...said, { text: '', count: unsaid }] : said;
  return { value, mixed, among: all.sort(byCount).slice(0, MOST_VALUES) };
}

/**
 * Lay records over each other; terms are merged by how they are spread instead.
 * @param of how many records
 */
export const merge = (spread: Spread, of: number): Merged =>
  Object.fromEntries(
    FIELD_KEYS.map((key) => [key, mergeField(key, spread.get(key) ?? UNSAID, of)]),
  ) as Merged;

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
