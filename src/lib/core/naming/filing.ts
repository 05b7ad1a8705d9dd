import { ArchiveError } from '../errors';
import { cutBytes } from '../text/bytes';
import { counts, parsePattern } from './grammar';
import { folderFiller, folderPieces, type FillContext } from './fill';
import { LONGEST_NAME, nameKey, nameProblem, nameTrouble, pathProblem } from './names';
import type { NameSubject } from './piece';

/** Filing plans: folders built from the same pieces as names, a level for each part between slashes. */

/** Where a piece is missing: a folder of this name, the levels that are known, or it stays where it is. */
export const MISSING_RULES = ['fallback', 'known', 'leave'] as const;
export type MissingRule = (typeof MISSING_RULES)[number];
export interface FilingRules {
  pattern: string;
  missing: MissingRule;
  /** Name of the folder for what is missing. */
  fallback: string;
}

/** Where a plan leads for one subject. */
export interface Filed {
  /** Below where the plan begins; null: it stays where it is. */
  path: string | null;
  /** Some piece was missing. */
  isPart: boolean;
}

/** What a pattern itself says between its slashes must be folders. @throws ArchiveError name-refused */
function refuseOddParts(pattern: string): void {
  let level = '';
  let isText = true;
  const end = (): void => {
    const problem = isText && level.trim() !== '' ? nameProblem(level.trim()) : null;
    if (problem)
      throw new ArchiveError('name-refused', `“${level.trim()}” is no folder: ${problem}.`);
    [level, isText] = ['', true];
  };
  for (const piece of parsePattern(pattern)) {
    if ('choices' in piece) {
      isText = false;
      continue;
    }
    piece.text.split('/').forEach((text, at) => {
      if (at > 0) end();
      level += text;
    });
  }
  end();
}

/** A value as the name of a folder: dots and spaces at its ends go, what is too long is cut; empty where nothing is left. */
function fitForFolder(part: string): string {
  if (nameProblem(part) === null) return part;
  const bare = part.replace(/^[. ]+|[. ]+$/g, '');
  const cut = cutBytes(bare, LONGEST_NAME).trim();
  const safe = nameTrouble(cut) === 'reserved' ? `${cut}-` : cut;
  return nameProblem(safe) === null ? safe : '';
}

/** @throws ArchiveError pattern-unclear, name-refused for a part that is no folder, or a fallback that is no folder's name */
export function filer(
  { pattern, missing, fallback }: FilingRules,
  context: FillContext,
): (subject: NameSubject) => Filed {
  const levels = folderPieces(pattern);
  if (levels.some(counts))
    throw new ArchiveError(
      'pattern-unclear',
      'A counter counts names; a plan run again would find other folders.',
    );
  const problem = missing === 'fallback' ? pathProblem(fallback) : null;
  if (missing === 'fallback' && (fallback === '' || fallback.includes('/') || problem !== null))
    throw new ArchiveError(
      'name-refused',
      `The folder for what is missing: ${problem ?? 'it needs one name, without a slash'}.`,
    );
  refuseOddParts(pattern);
  const fillers = levels.map((pieces) => folderFiller(pieces, context));
  return (subject) => {
    const parts: string[] = [];
    for (const fill of fillers) {
      const part = fitForFolder(fill(subject)?.trim() ?? '');
      if (part !== '') {
        parts.push(part);
        continue;
      }
      if (missing === 'leave') return { path: null, isPart: true };
      if (missing === 'fallback') parts.push(fallback);
      return { path: parts.join('/'), isPart: true };
    }
    return { path: parts.join('/'), isPart: false };
  };
}

/** Folders that are there, by the key of their path; a new one is known from then on. */
export class Folders {
  readonly #spelled = new Map<string, string>();
  readonly #made = new Set<string>();
  constructor(paths: Iterable<string>) {
    for (const path of paths) this.#spelled.set(nameKey(path), path);
  }

  /** A path as its folders are spelled already, whatever their case and composition; missing ones become new. */
  join(path: string): string {
    if (path === '') return '';
    let real = '';
    for (const part of path.split('/')) {
      const wished = real === '' ? part : `${real}/${part}`;
      const key = nameKey(wished);
      const found = this.#spelled.get(key);
      if (found === undefined) {
        this.#spelled.set(key, wished);
        this.#made.add(wished);
      }
      real = found ?? wished;
    }
    return real;
  }

  isNew = (path: string): boolean => this.#made.has(path);

  /** A path as far as it is spelled already. */
  spelled = (path: string): string => this.#spelled.get(nameKey(path)) ?? path;

  /** Take one in that is there; how it is spelled already stays. */
  know(path: string): void {
    const key = nameKey(path);
    if (!this.#spelled.has(key)) this.#spelled.set(key, path);
  }
}

/** A folder of the result: what comes into it, what lies there, and whether it is new. */
export interface FiledFolder {
  place: string;
  path: string;
  isNew: boolean;
  /** Files that come into it. */
  comes: number;
  /** Those of the choice that lie there already. */
  stays: number;
}

/** A folder and how deep it lies, with what comes into it and all below. */
export interface TreeLine extends FiledFolder {
  name: string;
  depth: number;
  below: number;
}

/** Folders of a result as a tree, every one above them too, in the order of their names. */
export function treeOf(
  folders: readonly FiledFolder[],
  isNew: (place: string, path: string) => boolean,
): TreeLine[] {
  const lines = new Map<string, TreeLine>();
  const lineOf = (place: string, path: string): TreeLine => {
    const key = `${place}\0${path}`;
    let line = lines.get(key);
    if (!line) {
      const parts = path === '' ? [] : path.split('/');
      line = {
        place,
        path,
        isNew: path !== '' && isNew(place, path),
        comes: 0,
        stays: 0,
        name: parts.at(-1) ?? place,
        depth: parts.length,
        below: 0,
      };
      lines.set(key, line);
      if (path !== '') lineOf(place, parts.slice(0, -1).join('/'));
    }
    return line;
  };
  for (const { place, path, comes, stays } of folders) {
    const own = lineOf(place, path);
    own.comes += comes;
    own.stays += stays;
    for (let at = path; ; at = at.slice(0, Math.max(0, at.lastIndexOf('/')))) {
      lineOf(place, at).below += comes;
      if (at === '') break;
    }
  }
  const sortKey = ({ place, path }: TreeLine): string => `${place}\0${path.replaceAll('/', '\0')}`;
  return [...lines.values()].sort((a, b) => (sortKey(a) < sortKey(b) ? -1 : 1));
}

/** Files before and after as columns, in their order: a hundred thousand travel as lists, not as as many objects. */
export interface FiledMoves {
  /** Folders by place and path. */
  folders: string[];
  /** Positions in `folders`. */
  from: number[];
  to: number[];
  before: string[];
  /** null: as before. */
  after: (string | null)[];
  /** Positions of those that go along with the one before them. */
  along: number[];
  /** What stands in the way, and of which. */
  problems: [at: number, words: string][];
}

/** A file before and after. */
export interface FiledMove {
  /** By place and path. */
  from: string;
  to: string;
  before: string;
  after: string;
  problem: string | null;
  /** It goes along with another. */
  along: boolean;
}

/** Moves one by one. */
export function movesListed(moves: FiledMoves): { count: number; at: (at: number) => FiledMove } {
  const along = new Set(moves.along);
  const problems = new Map(moves.problems);
  return {
    count: moves.from.length,
    at: (at) => ({
      from: moves.folders[moves.from[at]!]!,
      to: moves.folders[moves.to[at]!]!,
      before: moves.before[at]!,
      after: moves.after[at] ?? moves.before[at]!,
      problem: problems.get(at) ?? null,
      along: along.has(at),
    }),
  };
}

/** All of them as a list. */
export function listOfMoves(moves: FiledMoves): FiledMove[] {
  const { count, at } = movesListed(moves);
  return Array.from({ length: count }, (_, position) => at(position));
}

export interface FilingPreview {
  tree: TreeLine[];
  /** Those that something stands in the way of come first. */
  moves: FiledMoves;
  /** Items that go, and files with what goes along. */
  changed: number;
  files: number;
  /** What copies take, and what is free where they go to; 0 where nothing is copied. */
  bytes: number;
  free: number;
  /** Items that lie where they belong. */
  stays: number;
  /** Items left where they are: a piece is missing, a name is taken, the file is not here. */
  left: number;
  notHere: number;
  /** Items of which some piece is missing. */
  partly: number;
  /** New folders, and folders that are there and joined. */
  made: number;
  joined: number;
  problems: number;
  /** Paths that some systems find too long. */
  far: number;
  /** Places other programs look in. */
  shared: string[];
  /** Folders this leaves empty. */
  emptied: string[];
  fingerprint: string;
}
