import type { Mode, Plan } from '../intake/plan';
import type { EntryKind } from './kind';

/** A pattern that is kept under a name. */
export interface PatternEntry {
  purpose: 'naming' | 'filing';
  name: string;
  pattern: string;
  /** What goes with it: the rule for clashes, the extension, what happens where a piece is missing. */
  choices: Record<string, string | boolean>;
}
export const pattern: EntryKind<PatternEntry> = {
  deed: 'patterns',
  about: ['lists'],
  name: ({ name }) => name,
};

/** A plan of intake that is kept under a name. */
export interface PlanEntry {
  name: string;
  mode: Mode;
  /** Where it files; null: asked each time. */
  placeId: string | null;
  plan: Plan;
}
export const plan: EntryKind<PlanEntry> = {
  deed: 'plans',
  about: ['lists'],
  name: ({ name }) => name,
};
