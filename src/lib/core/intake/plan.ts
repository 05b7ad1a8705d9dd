import { z } from 'zod';
import { VALUES } from '../records/schemas';
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

export const MODES = ['in-place', 'copy', 'move'] as const;
export type Mode = (typeof MODES)[number];

/** How a stamp meets a value that is there already. */
export const STAMP_WAYS = ['fill blanks', 'overwrite', 'add'] as const;

const stampSchema = z.object({
  way: z.enum(STAMP_WAYS).default('fill blanks'),
  values: z
    .object({
      title: VALUES.title,
      caption: VALUES.caption,
      creator: VALUES.creator,
      creditLine: VALUES.creditLine,
      copyrightNotice: VALUES.copyrightNotice,
    })
    .partial()
    .default({}),
});
export type Stamp = z.infer<typeof stampSchema>;

/** More than a century of drift is a mistake in typing. */
const MOST_SHIFT = 100 * 366 * 86_400;

/** What an accession is to do with its files. Patterns are texts of docs/name-patterns.md. */
export const planSchema = z.object({
  filing: z.string().max(500),
  naming: z.string().min(1, 'a name pattern is needed').max(300),
  terms: z.array(z.string().trim().min(1).max(200)).max(100).default([]),
  stamp: stampSchema.default({ way: 'fill blanks', values: {} }),
  /** Ids of kept stamps that are put on each file, in this order; one that is off the list by then is passed over. */
  stamps: z.array(z.uuid()).max(20).default([]),
  /** Another place that gets a verified copy of each file. */
  secondCopyId: z.uuid().nullable().default(null),
  /** Counters go on where the last accession of this pattern and place left them. */
  countersGoOn: z.boolean().default(true),
  /** Seconds to add to the clock of each camera, by its name. */
  clocks: z
    .record(z.string().max(200), z.number().int().min(-MOST_SHIFT).max(MOST_SHIFT))
    .default({}),
});
export type Plan = z.infer<typeof planSchema>;
/** A plan as one writes it: what is not said has its default. */
export type PlanWish = z.input<typeof planSchema>;

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
 * @param counters where counters stand; they step on
 * @throws ArchiveError pattern-unclear
 */
export function planTargets(
  patterns: PlanPatterns,
  subjects: NameSubject[],
  held: (folder: string) => Set<string>,
  counters: Counters = new Map(),
): Target[] {
  checkFiling(patterns.filing);
  const naming = parsePattern(patterns.naming);
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

/** What a plan would make of chosen files; nothing is written. */
export interface PlanPreview {
  /** By position in the source. */
  lines: {
    position: number;
    from: string;
    folder: string;
    name: string;
    problem: string | null;
    /** Corrected time of its camera; null where its clock is left alone. */
    clock: string | null;
  }[];
  folders: { path: string; count: number; joins: number }[];
  problems: number;
  bytes: number;
  /** How many counters of this pattern stand somewhere already. */
  counters: number;
}
