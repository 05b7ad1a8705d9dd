import type { RefKind } from './refs';

/** What an entry of the registry may say. A type gives behaviour: tests, words, SQL, column of the index, input. */
export type FieldType =
  | 'text'
  | 'long-text'
  | 'names'
  | 'number'
  | 'enum'
  | 'yes-no'
  | 'date'
  | 'ref'
  | 'folder'
  | 'position'
  | 'languages'
  | 'colour'
  | 'words';

/**
 * Where a value is kept. `column`: of item `i` or its original file `f`; `record`: JSONB of described values;
 * `technical`: JSONB of what the file says of its making; `made`: computed, by its key.
 */
export type Store = { column: string } | { json: 'record' | 'technical' } | { made: true };

/** `edit`: described by people; `name`: a piece of patterns; `words`: searched by word. */
export type Use = 'sort' | 'group' | 'count' | 'edit' | 'name' | 'words' | 'show';

export interface Field {
  /** What it is called in programs: compact text, API, command line. */
  key: string;
  /** For people, as a form would say it. */
  label: string;
  type: FieldType;
  /** Record (described), technical (read from the file), archive (known here). */
  part: 'record' | 'technical' | 'archive';
  store: Store;
  uses: readonly Use[];
  /** Refs: of what. */
  of?: RefKind;
  /** More than one value at once. */
  many?: boolean;
  /** Enums: each value with its words. */
  values?: readonly { key: string; label: string }[];
  unit?: 'mm' | 's' | 'bytes' | 'px' | 'MP' | 'fps' | 'Hz' | 'ppi' | 'LUFS' | 'dBTP' | '%';
  /** Characters of a text or of one name. */
  most?: number;
  /** A text that is a whole number, as its standard has it. */
  whole?: true;
  /** Texts in other languages: the field whose text they say. */
  languagesOf?: string;
  /** Lead-in of the sentence where it is not the label: `about Kite`, `at stage Shortlist`. */
  says?: string;
  /** `credited` / `without credit`, where they are not `with a title` / `without a title`. */
  has?: string;
  lacks?: string;
  /** Homes in a file, as the MWG guidance 2.0 and the IPTC standard 2023.1 map them; names are ExifTool's. */
  exif?: string;
  /** Of a PDF: its information dictionary. */
  pdf?: string;
  iim?: { tag: string; /** bytes IIM 4.2 allows */ limit: number };
  xmp?: string;
}
