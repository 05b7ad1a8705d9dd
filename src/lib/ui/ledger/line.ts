import type { DeedName } from '#core/deeds/kinds';

/** A line of the ledger as pages show it. */
export interface Line {
  id: string;
  kind: DeedName;
  summary: string;
  state: string;
  actor: string;
  at: Date | string;
  total: number;
  failed: number;
  undoes: string | null;
  undone: boolean;
  canUndo: boolean;
}
