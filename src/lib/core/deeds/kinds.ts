import type { Ability } from '../people/roles';

/** What is to be known of a kind of change, wherever it is done. */
export interface DeedKind {
  /** Who may take it back; who may do it, its door asks. */
  undo: Ability;
  /** What its steps are counted in. */
  countedIn: 'file' | 'record' | 'step' | 'folder';
  /** What changed, as the ledger asks for it: “changes of names”. */
  of: string;
}

/** Every kind of change the ledger tells of; what does and undoes it registers in server/deeds. */
export const DEEDS = {
  record: { undo: 'describe', countedIn: 'record', of: 'records' },
  rename: { undo: 'rename', countedIn: 'file', of: 'names' },
  filing: { undo: 'rename', countedIn: 'file', of: 'where files lie' },
  lists: { undo: 'manage', countedIn: 'step', of: 'lists' },
  collections: { undo: 'collect', countedIn: 'step', of: 'collections' },
  rooms: { undo: 'dispatch', countedIn: 'step', of: 'reading rooms' },
  bursts: { undo: 'describe', countedIn: 'step', of: 'bursts' },
  spans: { undo: 'describe', countedIn: 'step', of: 'spans' },
  sequences: { undo: 'collect', countedIn: 'step', of: 'rough sequences' },
  patterns: { undo: 'rename', countedIn: 'step', of: 'patterns' },
  plans: { undo: 'intake', countedIn: 'step', of: 'plans of intake' },
  folders: { undo: 'rename', countedIn: 'folder', of: 'folders' },
  waste: { undo: 'rename', countedIn: 'file', of: 'what was let go' },
  empty: { undo: 'rename', countedIn: 'file', of: 'what was removed for good' },
} as const satisfies Record<string, DeedKind>;
export type DeedName = keyof typeof DEEDS;
export const DEED_NAMES = Object.keys(DEEDS) as [DeedName, ...DeedName[]];

/** A kind by its name as the database has it; null: the ledger does not tell of it. */
export const deedNamed = (name: string): (DeedKind & { name: DeedName }) | null =>
  Object.hasOwn(DEEDS, name) ? { ...DEEDS[name as DeedName], name: name as DeedName } : null;
