import type { RefKind } from '../fields/refs';
import { REF_KINDS, REFS } from '../fields/refs';
import { is, refTo, type Node } from '../query/tree';
import { CLOSENESS, folded, mistakesIn, nearness, type Closeness } from '../text/close';

/** Something the archive knows by a name. */
export interface Name {
  kind: RefKind;
  id: string;
  label: string;
  /** What it is found by: of a folder its own name; folded. */
  plain: string;
}

export const nameOf = (kind: RefKind, id: string, label: string): Name => ({
  kind,
  id,
  label,
  plain: folded(REFS[kind].found?.(label) ?? label),
});

/** What a sentence says with it. */
export function nodeOfName({ kind, id }: Pick<Name, 'kind' | 'id'>): Node {
  const { field, within } = REFS[kind];
  return within ? { field, test: 'in', values: [refTo(id)] } : is(field, refTo(id));
}

/** Fewer than this, and what was mistyped is looked for too. */
const ENOUGH = 3;

export interface Close extends Name {
  how: Closeness;
  /** Mistakes in what was typed. */
  mistakes: number;
}

const byCloseness = (a: Close, b: Close): number =>
  CLOSENESS.indexOf(a.how) - CLOSENESS.indexOf(b.how) ||
  a.mistakes - b.mistakes ||
  a.plain.length - b.plain.length ||
  (a.plain < b.plain ? -1 : a.plain > b.plain ? 1 : 0);

/** The names nearest to what was typed, kind by kind, the nearest first. Accents, case and small mistakes are forgiven. */
export function closest(names: readonly Name[], typed: string): Close[] {
  const wished = folded(typed.trim());
  if (wished === '') return [];
  const found: Close[] = [];
  for (const name of names) {
    const how = nearness(name.plain, wished);
    if (how) found.push({ ...name, how, mistakes: 0 });
  }
  if (found.length < ENOUGH)
    for (const name of names) {
      if (nearness(name.plain, wished) !== null) continue;
      const mistakes = mistakesIn(name.plain, wished);
      if (mistakes !== null) found.push({ ...name, how: 'typo', mistakes });
    }
  const room = Object.fromEntries(REF_KINDS.map((kind) => [kind, REFS[kind].most])) as Record<
    RefKind,
    number
  >;
  return found.sort(byCloseness).filter(({ kind }) => (room[kind] -= 1) >= 0);
}
