import type { Ability } from '../people/roles';

/** Kinds of change people are told of, and what each is counted in. */
export const COUNTED_IN = {
  rename: 'file',
  filing: 'file',
  record: 'record',
  lists: 'step',
  folders: 'folder',
  waste: 'file',
  empty: 'file',
} as const;
export type LedgerKind = keyof typeof COUNTED_IN;
export const LEDGER_KINDS = Object.keys(COUNTED_IN) as [LedgerKind, ...LedgerKind[]];

/** Undo asks for what the change itself asked for. */
export const undoNeeds = (kind: string): Ability =>
  kind === 'record' ? 'describe' : kind === 'lists' ? 'manage' : 'rename';
