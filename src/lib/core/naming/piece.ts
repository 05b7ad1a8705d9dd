import type { WallClock } from '../text/ldml';

/** What a name pattern is made of. Grammar: docs/name-patterns.md. */
export type DateWord = 'taken' | 'brought' | 'changed' | 'today';
export const DATE_WORDS: readonly DateWord[] = ['taken', 'brought', 'changed', 'today'];

/** Where a counter begins anew. */
export const SCOPES = ['all', 'day', 'folder', 'accession', 'camera', 'burst', 'name'] as const;
export type CounterScope = (typeof SCOPES)[number];
export const NUMERALS = ['digits', 'letters', 'roman'] as const;
export type Numerals = (typeof NUMERALS)[number];

/** What the archive or the disk knows of a file that is no field of the registry, or differs from it. */
export const PLAIN_WORDS = ['name', 'original', 'extension', 'place', 'hash'] as const;
export type PlainWord = (typeof PLAIN_WORDS)[number];

export interface CounterSource {
  of: 'counter';
  start: number;
  /** Digits at least. */
  width: number;
  step: number;
  numerals: Numerals;
  scope: CounterScope;
  /** It goes on from one batch to the next under this name; then `scope` is `all`. */
  named: string | null;
}

export type Source =
  | { of: 'date'; date: DateWord; format: string; zone: string | null }
  | CounterSource
  | { of: 'word'; word: PlainWord }
  /** A folder it lies in: the last; 1 the first below the place, 2 the next; -1 the last, -2 the one above. */
  | { of: 'folder'; level: number }
  | { of: 'term'; under: string }
  | { of: 'field'; key: string }
  | { of: 'text'; text: string };

/** What is done to the text a source gives. */
export type Change =
  | { does: 'upper' | 'lower' | 'capitals' | 'trim' | 'ascii' }
  /** Characters. */
  | { does: 'first' | 'last'; count: number }
  /** Characters, counted from 1, both included; null: to the end. */
  | { does: 'from'; from: number; to: number | null }
  /** Counted from 1, or from the end with -1. */
  | { does: 'part'; number: number; by: string }
  | { does: 'replace'; what: string; with: string }
  /** RE2 syntax; what is found by it alone, or said by a template of its groups. */
  | { does: 'match'; regex: string; as: string | null }
  | { does: 'rewrite'; regex: string; as: string };

/** One way to fill a piece. */
export interface Alternative {
  source: Source;
  changes: Change[];
}

/** Text as it stands, or ways to fill the piece: the first that gives any text is taken. */
export type Piece = { text: string } | { choices: Alternative[] };

/** What the pieces of one item are filled from. */
export interface NameSubject {
  /** Present name with extension. */
  name: string;
  /** Name it had before it came in. */
  original: string;
  /** Wall clock of the time taken; null where unknown. */
  taken: WallClock | null;
  /** How far `taken` is known; fields beyond it must not be invented. */
  precision: 'moment' | 'day' | 'month' | 'year' | 'span';
  /** `taken` as text, and its day as a number, where a hundred thousand are sorted and written. */
  takenText?: string | null;
  takenDay?: number;
  /** Minutes from UTC; null or left out where unknown. */
  offset?: number | null;
  /** Scope of counters by folder. */
  folder: string;
  /** Folder it lies in, below its place. */
  path?: string;
  place?: string;
  hash?: string;
  /** Instants, ms. */
  brought?: number | null;
  changed?: number | null;
  /** What fields of the registry say, by key; terms below another as `under LABEL`. */
  values: Readonly<Record<string, string>>;
}

/** Key under which a subject says its term below another. */
export const underKey = (label: string): string => `under ${label}`;
