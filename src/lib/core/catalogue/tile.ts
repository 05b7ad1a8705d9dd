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
  pictureState: 'ready' | 'waiting' | 'none';
  /** Why there is no picture. */
  noPicture: string | null;
  version: number;
  /** Where its file is: there, not there, changed by others, or in a place that is away. */
  fileState: 'present' | 'missing' | 'changed' | 'away';
}

/** Everything the wall's geometry needs: one small number for each item. */
export interface WallIndex {
  total: number;
  bytes: number;
  /** Groups in order: the day (`2026-09-12`), month or year known, empty for undated, or null for one group. */
  groups: { key: string | null; count: number; from: string | null; to: string | null }[];
  /** Width ÷ height of every picture in order, in hundredths. */
  aspects: number[];
}

/** A choice of a clause with the count it would leave. */
export interface Choice {
  value: string;
  count: number;
  /** Value of the choice it lies under: broader term, folder above. */
  under?: string | null;
}

/** Something typed into the sentence may mean. */
export interface Completion {
  field: 'terms' | 'folder' | 'stages' | 'collection' | 'words';
  label: string;
  /** Compact text of that clause alone. */
  clause: string;
  /** Items it would find; −1 where it was not counted. */
  count: number;
}

/** A folder of the holdings with its counts. */
export interface FolderNode {
  placeId: string;
  place: string;
  path: string;
  name: string;
  /** Items in this folder and all below. */
  count: number;
  /** Items in this folder alone. */
  here: number;
  from: string | null;
  to: string | null;
}
