import type { RecordValues } from '../records/fields';
import type { Summary } from '../records/merge';
import type { Provenance } from '../records/provenance';
import type { Disputes } from '../records/reconcile';
import type { Technical } from '../records/technical';

/** Everything known of one item. */
export interface ShownItem {
  id: string;
  number: string;
  kind: string;
  format: string;
  mediaType: string;
  originalName: string;
  version: number;
  record: RecordValues;
  provenance: Provenance;
  technical: Technical;
  /** px, upright */
  width: number | null;
  height: number | null;
  /** seconds */
  duration: number | null;
  noPicture: string | null;
  /** What the tool complained of it. */
  noPictureDetail: string | null;
  /** Why it stands for its burst. */
  burstReason: string | null;
  /** The record waits to be written into the file. */
  writing: 'written' | 'waiting' | 'differs' | 'failed';
  /** Fields in which record and file were both changed. */
  disputes: Disputes;
  writeProblem: string | null;
  files: {
    role: string;
    state: 'present' | 'missing' | 'changed';
    place: string;
    folder: string;
    name: string;
    /** The server's own path; told to those who look after places; empty to others. */
    path: string;
    size: number;
    contentHash: string;
    essenceHash: string | null;
  }[];
  renditions: {
    recipe: string;
    width: number | null;
    height: number | null;
    bytes: number | null;
  }[];
  jobs: { task: string; state: string; attempts: number; reason: string | null }[];
  /** What it is to other items. */
  lineage: { kind: string; number: string; id: string }[];
  collections: string[];
}

/** What a card tells of a choice of items; of one alone all that is known of it, null where it is gone. */
export type CardContent = Summary & { bytes: number; item: ShownItem | null };
