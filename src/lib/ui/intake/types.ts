import type { Source } from '#core/intake/facts';
import type { Alike } from '#core/likeness/alike';
import type { FieldKey } from '#core/records/fields';
import type { KeptPlan } from './draft';

export type SourceKind = Source['kind'];

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
  /** Fields in which it tells something else than the item that holds its picture. */
  heldDiffers: FieldKey[];
  /** Number of the accession that took it already. */
  taken: string | null;
  camera: string;
  takenPrecision: string | null;
  /** Position of an earlier file of this source with the same bytes or picture. */
  twinPosition: number | null;
  alike: Alike[];
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
