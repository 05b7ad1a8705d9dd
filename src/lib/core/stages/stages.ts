/** The shape half of a stage's mark; the colour half is one of our tokens, so neither stands alone. */
export const STAGE_SHAPES = ['ring', 'diamond', 'disc', 'square', 'triangle', 'bar'] as const;
export type StageShape = (typeof STAGE_SHAPES)[number];

export const STAGE_COLOURS = ['slate', 'ochre', 'verdigris', 'plum', 'wax', 'pencil'] as const;
export type StageColour = (typeof STAGE_COLOURS)[number];

export interface Stage {
  id: string;
  name: string;
  shape: StageShape;
  colour: StageColour;
  /** The key that gives it, one digit or letter. */
  key: string;
}

/** What a new archive begins with; a team renames them. */
export const FIRST_STAGES: Omit<Stage, 'id'>[] = [
  { name: 'To look over', shape: 'ring', colour: 'pencil', key: 'a' },
  { name: 'With retoucher', shape: 'diamond', colour: 'slate', key: 's' },
  { name: 'Shortlist', shape: 'disc', colour: 'ochre', key: 'd' },
  { name: 'For print', shape: 'square', colour: 'plum', key: 'f' },
  { name: 'Published', shape: 'triangle', colour: 'verdigris', key: 'g' },
];
