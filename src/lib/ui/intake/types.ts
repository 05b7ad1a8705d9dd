import type { KeptPlan } from './draft';

export type SourceKind = 'device' | 'folder' | 'drop-zone' | 'upload' | 'web' | 'sheet';

/** A file of a source that is being looked through. */
export interface ScanFile {
  position: number;
  path: string;
  size: number;
  lookedAt: boolean;
  kind: string;
  format: string;
  takenFrom: string | null;
  aspect: number;
  problem: string | null;
  held: string | null;
  heldItemId: string | null;
  /** Number of the accession that took it already. */
  taken: string | null;
  camera: string;
  takenPrecision: string | null;
  /** Position of an earlier file of this source with the same bytes or picture. */
  twinPosition: number | null;
  alike: Alike[];
}

/** What a file is like: an item held, or another file of the source. */
export interface Alike {
  kind: 'twin' | 'lookalike';
  itemId: string | null;
  number: string | null;
  position: number | null;
  distance: number;
}

export interface Scan {
  id: string;
  source: { kind: SourceKind; name: string };
  root: string;
  state: string;
  files: ScanFile[];
}

export interface NamedPlan extends KeptPlan {
  id: string;
  name: string;
}

export interface PlanPreview {
  lines: {
    position: number;
    from: string;
    folder: string;
    name: string;
    problem: string | null;
    /** Corrected time of its camera; null where its clock is left alone. */
    clock: string | null;
  }[];
  folders: { path: string; count: number; joins: number }[];
  problems: number;
  bytes: number;
  /** How many counters of this pattern stand somewhere already. */
  counters: number;
}
