import type { StageColour, StageShape } from '../stages/stages';

/** What a span or marker can be marked as: a shape with a colour, so that neither stands alone. */
export const MARKS = ['pick', 'problem', 'sound', 'ask', 'again'] as const;
export type Mark = (typeof MARKS)[number];

export const MARK_NAMES: Record<Mark, string> = {
  pick: 'pick',
  problem: 'trouble',
  sound: 'good sound',
  ask: 'ask someone',
  again: 'another take',
};
export const MARK_SIGNS: Record<Mark, { shape: StageShape; colour: StageColour }> = {
  pick: { shape: 'disc', colour: 'verdigris' },
  problem: { shape: 'diamond', colour: 'wax' },
  sound: { shape: 'square', colour: 'slate' },
  ask: { shape: 'triangle', colour: 'ochre' },
  again: { shape: 'ring', colour: 'plum' },
};
