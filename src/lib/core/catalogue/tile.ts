import type { Kind } from '../kinds/kinds';

/** What a tile or a table row shows of an item. */
export interface Tile {
  id: string;
  number: string;
  name: string;
  kind: Kind;
  format: string;
  title: string;
  rating: number;
  /** Id of its stage. */
  stage: string | null;
  /** Wall clock, `2026-09-12T19:42:00` */
  taken: string | null;
  takenEdtf: string | null;
  creator: string;
  credit: string;
  camera: string;
  folder: string;
  place: string;
  /** px, upright */
  width: number | null;
  height: number | null;
  /** seconds */
  duration: number | null;
  /** bytes */
  size: number;
  /** Key of its pictures; changes when the picture does. */
  picture: string;
  /** Key of the picture of a span's last frame; null of all else, and until it is made. */
  lastPicture: string | null;
  /** A span that means its first frame alone. */
  isMarker: boolean;
  pictureState: 'ready' | 'waiting' | 'none';
  /** Why there is no picture. */
  noPicture: string | null;
  version: number;
  /** Frames nearly the same as it, itself among them: which, how many, and whether it stands for them. */
  burst: string | null;
  burstSize: number;
  burstLead: boolean;
  /** Where its file is: there, not there, changed by others, or in a place that is away. */
  fileState: 'present' | 'missing' | 'changed' | 'away';
}

/** A heading of the wall and what hangs under it. */
export interface WallGroup {
  /** Value of the field it is parted by: a day (`2026-09-12`), an id, a word; empty where unknown; null for one group. */
  key: string | null;
  /** Its words, where the key is none. */
  label?: string;
  count: number;
  /** First and last time taken, in the order of the wall. */
  from: string | null;
  to: string | null;
  /** Sum of width ÷ height, held between the narrowest and the widest tile: tells its height before its pictures. */
  wide: number;
}

/** Proportions that are asked for at once. */
export const MOST_STRETCH = 4000;

/** What is found, without what hangs where. */
export interface Wall {
  total: number;
  bytes: number;
  groups: WallGroup[];
  /** Counts are being caught up: the index is not ready, and the database answered. */
  catchingUp?: boolean;
}

/** A choice of a field with the count it would leave. */
export interface Choice {
  /** Value as a condition holds it; a reference for what has an id. */
  value: string | number;
  label: string;
  count: number;
  /** Value of the choice it lies under: broader term, folder above, year. */
  under?: string | null;
}

/** How numbers are spread over equal steps between two ends. */
export interface Histogram {
  from: number;
  to: number;
  counts: number[];
}

/** The choices of a field; of a field that says nothing, how many. */
export interface Choices {
  choices: Choice[];
  /** Items that say nothing in the field. */
  lacking: number;
  /** There are more choices than are told. */
  more: boolean;
  /** Numbers and dates: how they are spread. */
  histogram?: Histogram;
}

/** Something typed into the sentence may mean. */
export interface Completion {
  /** A field whose choices it opens; no clause then. */
  field?: string;
  /** Words for what it is: `term`, `in`, `stage`, `field`. */
  about: string;
  label: string;
  /** Compact text of that clause alone. */
  clause: string;
  /** Items it would find; −1 where it was not counted. */
  count: number;
}

/** A folder of the holdings with its counts. */
export interface FolderNode {
  id: string;
  parentId: string | null;
  placeId: string;
  place: string;
  path: string;
  name: string;
  /** Items in this folder and all below. */
  count: number;
  /** Items in this folder alone. */
  here: number;
  /** Folders directly below. */
  folders: number;
  from: string | null;
  to: string | null;
}
