import type { RefKind } from '../fields/field';
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
  plain: folded(kind === 'folder' ? label.split('/').at(-1)! : label),
});

/** What a sentence says with it. */
export function nodeOfName({ kind, id }: Pick<Name, 'kind' | 'id'>): Node {
  if (kind === 'folder') return { field: 'folder', test: 'in', values: [refTo(id)] };
  if (kind === 'term') return is('terms', refTo(id));
  return is(kind === 'person' ? 'broughtBy' : kind, refTo(id));
}

/** As many of each kind as one looks through. */
const MOST: Record<RefKind, number> = {
  term: 6,
  folder: 5,
  stage: 3,
  collection: 4,
  accession: 2,
  person: 2,
};
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
  const room = { ...MOST };
  return found.sort(byCloseness).filter(({ kind }) => (room[kind] -= 1) >= 0);
}
