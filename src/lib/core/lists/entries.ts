import type { Access, Subject } from '../access/access';
import type { StageColour, StageShape } from '../stages/stages';

/**
 * The lists an archive keeps for itself, as whole entries: what the ledger notes before and after, and what a page
 * sends back as it saw it. References are ids.
 */
export interface StageEntry {
  name: string;
  shape: StageShape;
  colour: StageColour;
  /** The key that gives it, a letter; null for none. */
  key: string | null;
  position: number;
  /** What it was called, or what was merged into it: files that say so are read as this stage. */
  formerly: string[];
  /** Offered no more; items that are at it stay. */
  retired: boolean;
}

/**
 * Labels after SKOS: `preferred` of another language, `also` known as, `hidden`: found by, never shown. The preferred label
 * of the archive's own language is the term's own.
 */
export const LABEL_KINDS = ['preferred', 'also', 'hidden'] as const;
export interface TermLabel {
  kind: (typeof LABEL_KINDS)[number];
  /** BCP 47; empty: of no language in particular */
  lang: string;
  label: string;
}

export interface TermEntry {
  label: string;
  labels: TermLabel[];
  /** Ids. */
  broader: string[];
  related: string[];
  note: string;
  retired: boolean;
}

export interface ContributorEntry {
  name: string;
  kind: 'person' | 'agency';
  /** Other spellings of the name. */
  also: string[];
  creditLine: string;
  copyrightNotice: string;
  usageTerms: string;
  email: string;
  phone: string;
  web: string;
  note: string;
  retired: boolean;
}

/** How a stamp's value meets what is there. */
export const WAYS = ['fill', 'overwrite', 'add'] as const;
export type Way = (typeof WAYS)[number];
export interface StampLine {
  /** A field of the record. */
  field: string;
  way: Way;
  /** Text in which pieces in braces stand for what the item says; of lists several. */
  value: string | string[] | number;
}
export interface StampEntry {
  name: string;
  project: string;
  lines: StampLine[];
}

/** A place of one's own: within its radius its names hold. */
export interface SpotEntry {
  name: string;
  /** degrees, WGS 84 */
  latitude: number;
  longitude: number;
  /** m */
  radius: number;
  /** What goes into the location fields; a blank sublocation is the name, the rest is the gazetteer's. */
  sublocation: string;
  city: string;
  state: string;
  country: string;
  note: string;
}

export interface CollectionEntry {
  name: string;
  note: string;
  /** What a standing one finds; null: it is picked by hand. */
  query: unknown;
  /** Id of the collection it lies in. */
  parentId: string | null;
}

/** An item's place in a hand-picked collection; the entry's id is both their ids. */
export interface PlacingEntry {
  collection: string;
  item: string;
  /** Key of the order, ascending: an item is put between two others without touching them. */
  position: number;
  note: string;
}
export const placingId = (collection: string, item: string): string => `${collection}/${item}`;

/** What is said of who may see something: the entry's id is that of the mark, one for each subject. */
export interface AccessEntry {
  subject: Subject;
  /** Id of the place, folder, accession, collection or item. */
  of: string;
  state: Exclude<Access, 'open'>;
  note: string;
}
