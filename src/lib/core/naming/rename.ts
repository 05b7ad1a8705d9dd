import {
  apartFrom,
  fillPattern,
  nameKey,
  nameProblem,
  parsePattern,
  withExtension,
  type Counters,
  type NameSubject,
} from './pattern';

export interface RenameSubject extends NameSubject {
  id: string;
}

export interface RenameLine {
  id: string;
  folder: string;
  before: string;
  after: string;
  /** Why it cannot be so; null where all is well. */
  problem: string | null;
  /** It was told apart with a number. */
  numbered: boolean;
}

export interface RenameOptions {
  /** Settle collisions with -2, -3 …; otherwise they are marked and refused. */
  tellApart: boolean;
}

/**
 * All names before and after, in the order given. A name that another file of the batch gives up is free.
 * @param held name keys of the files in each folder that are not part of the batch
 */
export function previewRename(
  pattern: string,
  subjects: RenameSubject[],
  held: Map<string, Set<string>>,
  options: RenameOptions,
): RenameLine[] {
  const pieces = parsePattern(pattern);
  const counters: Counters = new Map();
  const given = new Map<string, Set<string>>();
  const lines = subjects.map((subject): RenameLine => {
    const wished = withExtension(fillPattern(pieces, subject, counters), subject.name);
    const mine = given.get(subject.folder) ?? new Set<string>();
    given.set(subject.folder, mine);
    const isTaken = (key: string): boolean =>
      mine.has(key) || (held.get(subject.folder)?.has(key) ?? false);
    let problem = nameProblem(wished);
    const after = problem === null && options.tellApart ? apartFrom(wished, isTaken) : wished;
    if (problem === null && isTaken(nameKey(after)))
      problem = mine.has(nameKey(after))
        ? 'another of these would have this name'
        : 'a file of this name is there already';
    mine.add(nameKey(after));
    return {
      id: subject.id,
      folder: subject.folder,
      before: subject.name,
      after,
      problem,
      numbered: after !== wished,
    };
  });
  return lines;
}
