import type { Kind } from '../kinds/kinds';
import type { RecordValues } from '../records/fields';
import type { ToldValues } from '../records/reconcile';
import type { Technical } from '../records/technical';

/** What reading a file told, kept with its entry so that a resumed intake need not read again. */
export interface FileFacts {
  kind: Kind;
  mediaType: string;
  format: string;
  record: RecordValues;
  technical: Technical;
  /** EXIF orientation, 1–8 */
  orientation: number;
  /** px as shown upright; null where unknown */
  width: number | null;
  height: number | null;
  /** Why metadata could not be read. */
  problem: string | null;
  /** Whose words the record is: of a file that cannot be read only what stands beside it counts. Older looks lack it. */
  says?: 'all' | 'beside' | 'nothing';
  /** Path of the sidecar beside it, below the source. */
  sidecar: string | null;
}

/** What a look read of a file, and the file it read it from. */
export interface Looked {
  facts: FileFacts;
  seen: SourceFacts;
}

/** The bytes that were put in place, where they are not the source's: its record was written into the copy. */
export interface Placed {
  contentHash: string;
  size: number;
  /** What it says now. */
  told?: ToldValues;
}

export interface Source {
  kind: 'device' | 'folder' | 'drop-zone' | 'upload' | 'web' | 'sheet';
  /** Name of the device, or path of the folder. */
  name: string;
}

/** The source file as it was when it was read: it is deleted only if it still is the same. */
export interface SourceFacts {
  size: number;
  /** decimal */
  modifiedNs: string;
  inode: string;
  /** ctime: it tells a new file from one that had its inode before; older notes lack it */
  changedNs?: string;
}

/** One more file of a bundle. */
export interface EntryPart {
  /** Path below the source. */
  path: string;
  size: number;
  contentHash?: string;
  sourceFacts?: SourceFacts;
}
