import {
  apartFrom,
  fillPattern,
  nameKey,
  nameProblem,
  nameSafe,
  parsePattern,
  pathProblem,
  splitName,
  withExtension,
  type Counters,
  type NameSubject,
} from '../naming/pattern';

/** Where one file will go. */
export interface Target {
  folder: string;
  name: string;
  /** Why it cannot go there; null where all is well. */
  problem: string | null;
}

export interface PlanPatterns {
  /** Folder path below the place; pieces and slashes; may be empty. */
  filing: string;
  /** New name without extension. */
  naming: string;
}

/** Folder path of one subject; slashes come from the pattern alone, never from a value. */
function folderOf(filing: string, subject: NameSubject, counters: Counters): string {
  return filing
    .split('/')
    .filter((part) => part.trim() !== '')
    .map((part) => fillPattern(parsePattern(part), subject, counters).trim())
    .join('/');
}

/** Split a filing pattern at its slashes, not at slashes inside a piece. */
function checkFiling(filing: string): void {
  for (const part of filing.split('/')) parsePattern(part);
}

/** A name that came from elsewhere made fit for every disk; its extension stays. */
export function safeName(name: string): string {
  if (nameProblem(name) === null) return name;
  const { stem, extension } = splitName(name);
  let short =
    nameSafe(stem)
      .replace(/^\.+/, '')
      .replace(/[ .]+$/, '') || 'unnamed';
  while (new TextEncoder().encode(short).length > 200) short = short.slice(0, -1);
  const safe = extension ? `${short}.${nameSafe(extension)}` : short;
  return nameProblem(safe) === null
    ? safe
    : `${short}-file${extension ? `.${nameSafe(extension)}` : ''}`;
}

/**
 * Folders and names of all files of an intake, in order. Names that would meet are told apart with -2, -3 …
 * @param held name keys that are taken already, by folder path
 * @throws ArchiveError pattern-unclear
 */
export function planTargets(
  patterns: PlanPatterns,
  subjects: NameSubject[],
  held: (folder: string) => Set<string>,
): Target[] {
  checkFiling(patterns.filing);
  const naming = parsePattern(patterns.naming);
  const counters: Counters = new Map();
  const given = new Map<string, Set<string>>();
  return subjects.map((subject) => {
    const folder = folderOf(patterns.filing, subject, counters);
    const [name, original] = [safeName(subject.name), safeName(subject.original)];
    const wished = withExtension(
      fillPattern(naming, { ...subject, name, original, folder }, counters),
      name,
    );
    const problem = pathProblem(folder) ?? nameProblem(wished);
    if (problem) return { folder, name: wished, problem };
    const mine = given.get(folder) ?? new Set<string>();
    given.set(folder, mine);
    const taken = held(folder);
    const apart = apartFrom(wished, (key) => mine.has(key) || taken.has(key));
    mine.add(nameKey(apart));
    return { folder, name: apart, problem: null };
  });
}
