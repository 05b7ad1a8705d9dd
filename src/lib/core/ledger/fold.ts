/** What lines of the ledger are alike by. */
export interface Foldable {
  id: string;
  kind: string;
  summary: string;
  actor: string;
  /** A moment, or as it came over the wire. */
  at: Date | string;
  total: number;
  undoes: string | null;
  undone: boolean;
}

/** Lines that say the same of one person's work, newest first. */
export interface Fold<L extends Foldable> {
  /** The newest one's id: it stays while others are added behind it. */
  key: string;
  lines: L[];
  /** Steps of all of them. */
  total: number;
}

/** Longer apart than this it is other work. */
const APART_MS = 30 * 60_000;

const isAlike = (a: Foldable, b: Foldable): boolean =>
  a.kind === b.kind &&
  a.summary === b.summary &&
  a.actor === b.actor &&
  a.undone === b.undone &&
  !a.undoes &&
  !b.undoes &&
  Math.abs(new Date(a.at).getTime() - new Date(b.at).getTime()) <= APART_MS;

/** Fold lines that follow each other and are alike. @param lines newest first */
export function folded<L extends Foldable>(lines: L[]): Fold<L>[] {
  const folds: Fold<L>[] = [];
  for (const line of lines) {
    const last = folds.at(-1);
    if (last && isAlike(last.lines.at(-1)!, line)) {
      last.lines.push(line);
      last.total += line.total;
    } else folds.push({ key: line.id, lines: [line], total: line.total });
  }
  return folds;
}
