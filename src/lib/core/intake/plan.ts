import { z } from 'zod';
import { VALUES } from '../records/schemas';
import { ArchiveError } from '../errors';
import { filler, folderPieces, type Counters } from '../naming/fill';
import { choicesIn, formatChoice, parsePattern } from '../naming/grammar';
import {
  apartFrom,
  bytesOfName,
  nameKey,
  nameProblem,
  nameSafe,
  pathProblem,
  splitName,
  withExtension,
} from '../naming/names';
import type { NameSubject, Piece } from '../naming/piece';

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

/** What is known of a file before it is brought in. */
const KNOWN_FIELDS = ['camera', 'creator', 'title'];
const KNOWN_SCOPES = ['all', 'day', 'folder', 'camera', 'name'];
const KNOWN_WORDS = ['name', 'original', 'extension'];

/** @throws ArchiveError pattern-unclear naming a piece nobody knows before a file is brought in */
function refuseUnknown(pieces: readonly Piece[]): void {
  for (const choice of choicesIn(pieces)) {
    const { source } = choice;
    const isKnown =
      source.of === 'text' ||
      (source.of === 'date' && source.date === 'taken') ||
      (source.of === 'counter' && source.named === null && KNOWN_SCOPES.includes(source.scope)) ||
      (source.of === 'word' && KNOWN_WORDS.includes(source.word)) ||
      (source.of === 'field' && KNOWN_FIELDS.includes(source.key));
    if (!isKnown)
      throw new ArchiveError(
        'pattern-unclear',
        `“{${formatChoice(choice)}}” is not known before a file is brought in.`,
      );
  }
}

/** What fills the patterns of an intake. @throws ArchiveError pattern-unclear */
function fillers({ filing, naming }: PlanPatterns, counters: Counters) {
  const context = { counters, now: 0, zone: 'UTC' };
  const [folders, names] = [folderPieces(filing), parsePattern(naming)];
  [...folders, names].forEach(refuseUnknown);
  const folderParts = folders.map((pieces) => filler(pieces, context));
  return {
    /** Slashes come from the pattern alone, never from a value. */
    folderOf: (subject: NameSubject): string =>
      folderParts.map((fill) => fill(subject).trim()).join('/'),
    nameOf: filler(names, context),
  };
}

/** UTF-8 bytes of a stem that leave room for an extension and a counter. */
const LONGEST_STEM = 200;
/** No disk takes names that begin with a dot or a space, or end with one. */
const withoutEdges = (stem: string): string => stem.replace(/^[ .]+/, '').replace(/[ .]+$/, '');

/** A name that came from elsewhere made fit for every disk; its extension stays. */
export function safeName(name: string): string {
  if (nameProblem(name) === null) return name;
  const { stem, extension } = splitName(name);
  let short = withoutEdges(nameSafe(stem)) || 'unnamed';
  // By whole characters: half of one is none.
  for (
    const all = [...short.slice(0, LONGEST_STEM + 1)];
    bytesOfName(short) > LONGEST_STEM;
    all.pop()
  )
    short = withoutEdges(all.slice(0, -1).join(''));
  const ending = withoutEdges(nameSafe(extension));
  const named = (one: string): string => (ending ? `${one}.${ending}` : one);
  return nameProblem(named(short)) === null ? named(short) : named(`${short}-file`);
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
  const { folderOf, nameOf } = fillers(patterns, counters);
  const given = new Map<string, Set<string>>();
  return subjects.map((subject) => {
    const folder = folderOf(subject);
    const [name, original] = [safeName(subject.name), safeName(subject.original)];
    const wished = withExtension(nameOf({ ...subject, name, original, folder }), name);
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
