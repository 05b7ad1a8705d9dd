import {
  fillPattern,
  nameKey,
  nameProblem,
  numbered,
  parsePattern,
  splitName,
  withExtension,
  type Counters,
  type NameSubject,
} from './pattern';

/** A file that is renamed along with its original: a sidecar, a companion, a second copy elsewhere. */
export interface Follower {
  id: string;
  name: string;
  folder: string;
}

export interface RenameSubject extends NameSubject {
  id: string;
  followers?: Follower[];
}

export interface FollowerLine {
  id: string;
  folder: string;
  before: string;
  after: string;
}

export interface RenameLine {
  id: string;
  folder: string;
  before: string;
  after: string;
  /** What is renamed along with it. */
  followers: FollowerLine[];
  /** Why it cannot be so; null where all is well. */
  problem: string | null;
  /** It was told apart with a number. */
  numbered: boolean;
}

export interface RenameOptions {
  /** Settle collisions with -2, -3 …; otherwise they are marked and refused. */
  tellApart: boolean;
}

/** The new name of a file that follows: IMG_1.dng.xmp and IMG_1.xmp go with IMG_1.dng; null where it does not. */
export function followedName(name: string, before: string, after: string): string | null {
  if (name.startsWith(before)) return after + name.slice(before.length);
  const { stem } = splitName(before);
  return name.startsWith(`${stem}.`) ? splitName(after).stem + name.slice(stem.length) : null;
}

const followersOf = (subject: RenameSubject, after: string): FollowerLine[] =>
  (subject.followers ?? []).flatMap(({ id, name, folder }) => {
    const next = followedName(name, subject.name, after);
    return next === null ? [] : [{ id, folder, before: name, after: next }];
  });

/**
 * All names before and after, in the order given, with those of the files that follow. A name that another file of
 * the batch gives up is free.
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
  const isHeld = (folder: string, name: string): boolean =>
    held.get(folder)?.has(nameKey(name)) ?? false;
  const isGiven = (folder: string, name: string): boolean =>
    given.get(folder)?.has(nameKey(name)) ?? false;
  const give = (folder: string, name: string): void => {
    given.set(folder, (given.get(folder) ?? new Set<string>()).add(nameKey(name)));
  };

  /** What stands in the way of a name, for the file and for all that follows it. */
  const clash = (subject: RenameSubject, after: string): string | null => {
    const { folder } = subject;
    if (isGiven(folder, after)) return 'another of these would have this name';
    // Where nothing changes, nothing new can stand in the way.
    if (after === subject.name) return null;
    if (isHeld(folder, after)) return 'a file of this name is there already';
    const followers = followersOf(subject, after);
    for (const one of followers) {
      if (isGiven(one.folder, one.after))
        return `“${one.after}”, which goes along, would have the name of another of these`;
      if (isHeld(one.folder, one.after))
        return `“${one.after}”, which goes along, is there already`;
    }
    // A sidecar that lies there alone would become this file's.
    const beside = [`${after}.xmp`, `${splitName(after).stem}.xmp`];
    const stranger = beside.find(
      (name) =>
        isHeld(folder, name) && !followers.some((one) => nameKey(one.before) === nameKey(name)),
    );
    return stranger ? `the sidecar “${stranger}” of another file lies there` : null;
  };

  return subjects.map((subject): RenameLine => {
    const wished = withExtension(fillPattern(pieces, subject, counters), subject.name);
    let after = wished;
    let problem = nameProblem(wished) ?? clash(subject, wished);
    if (options.tellApart && nameProblem(wished) === null)
      for (let number = 2; problem !== null; number += 1) {
        after = numbered(wished, number);
        problem = nameProblem(after) ?? clash(subject, after);
        if (nameProblem(after)) break;
      }
    const followers = followersOf(subject, after);
    give(subject.folder, after);
    for (const one of followers) give(one.folder, one.after);
    const { id, folder, name: before } = subject;
    return { id, folder, before, after, followers, problem, numbered: after !== wished };
  });
}
