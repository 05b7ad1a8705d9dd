/** What a change is counted in. */
export const COUNTED_IN = {
  rename: 'file',
  record: 'record',
  folders: 'folder',
  waste: 'file',
  empty: 'file',
} as const;

/** A line of the ledger as pages show it. */
export interface Line {
  id: string;
  kind: keyof typeof COUNTED_IN;
  summary: string;
  state: string;
  actor: string;
  at: Date;
  total: number;
  failed: number;
  undoes: string | null;
  undone: boolean;
  canUndo: boolean;
}
