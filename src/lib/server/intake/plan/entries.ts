import type { Mode, Plan } from '#core/intake/plan';
import type { RecordChange } from '#core/records/fields';
import type { EntryPart, FileFacts, Looked, Placed, SourceFacts } from '#core/intake/facts';
import type { Place } from '../../places/places';

/** An accession at work. */
export interface Intake {
  id: string;
  year: number;
  number: number;
  title: string;
  root: string;
  mode: Mode;
  place: Place;
  plan: Plan;
  createdBy: string | null;
  jobId: string;
}

/** One file of it. */
export interface Entry {
  id: string;
  position: number;
  sourcePath: string;
  size: number;
  state: string;
  decision: 'new' | 'again' | 'version' | 'describe';
  versionOf: string | null;
  folder: string | null;
  name: string | null;
  contentHash: string | null;
  facts: FileFacts | null;
  sourceFacts: SourceFacts | null;
  looked: Looked | null;
  placed: Placed | null;
  sourceState: string;
  secondState: string;
  itemId: string | null;
  given: RecordChange | null;
  bundleFolder: string | null;
  parts: EntryPart[] | null;
  /** Hash of its picture data once it is known in this run; null where there is none. */
  essenceHash?: string | null;
}

export const ENTRY = [
  'id',
  'position',
  'sourcePath',
  'size',
  'state',
  'decision',
  'versionOf',
  'folder',
  'name',
  'contentHash',
  'facts',
  'sourceFacts',
  'looked',
  'placed',
  'sourceState',
  'secondState',
  'itemId',
  'given',
  'bundleFolder',
  'parts',
] as const;
