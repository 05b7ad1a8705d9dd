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
  /** The key that gives it, a letter; null for none. */
  key: string | null;
  /** Not offered any more. */
  retired: boolean;
}

/** Stages in use at a time; more nobody keeps apart. */
export const MOST_STAGES = 12;

/** Letters that mean something else on the screens where stages are given. */
export const TAKEN_KEYS: Record<string, string> = { h: 'holdings', n: 'reject' };

/** Letters a stage may be given by, without those that others have. */
export const freeKeys = (stages: readonly Pick<Stage, 'key'>[]): string[] =>
  [...'abcdefghijklmnopqrstuvwxyz'].filter(
    (letter) => !TAKEN_KEYS[letter] && !stages.some(({ key }) => key === letter),
  );

/** The stage a key gives. */
export const stageOfKey = <S extends Pick<Stage, 'key' | 'retired'>>(
  stages: readonly S[],
  key: string,
): S | undefined => stages.find((one) => !one.retired && one.key === key.toLowerCase());

/** Stages one may choose: those in use, and the one that is chosen. */
export const offeredStages = <S extends Pick<Stage, 'name' | 'retired'>>(
  stages: readonly S[],
  chosen = '',
): S[] => stages.filter(({ name, retired }) => !retired || name === chosen);

/** What a new archive begins with; a team renames them. */
export const FIRST_STAGES: Omit<Stage, 'id' | 'retired'>[] = [
  { name: 'To look over', shape: 'ring', colour: 'pencil', key: 'a' },
  { name: 'With retoucher', shape: 'diamond', colour: 'slate', key: 's' },
  { name: 'Shortlist', shape: 'disc', colour: 'ochre', key: 'd' },
  { name: 'For print', shape: 'square', colour: 'plum', key: 'f' },
  { name: 'Published', shape: 'triangle', colour: 'verdigris', key: 'g' },
];
