import { filler, type FillContext } from './fill';
import { parsePattern } from './grammar';
import {
  lettered,
  nameKey,
  nameProblem,
  nameTrouble,
  numbered,
  splitName,
  withExtension,
  type ExtensionRule,
  type NameTrouble,
} from './names';
import type { NameSubject } from './piece';

/** A file that is renamed along with its original: a sidecar, a companion, a second copy elsewhere. */
export interface Follower {
  id: string;
  name: string;
  folder: string;
}

export interface RenameSubject extends NameSubject {
  id: string;
  followers?: Follower[];
  /** It goes to another folder, which `folder` names then, from this one. */
  moves?: boolean;
  source?: string;
}

export interface FollowerLine {
  id: string;
  folder: string;
  before: string;
  after: string;
}

/** What stands in the way: of the name itself, another of the batch, a file that is there, what goes along, a sidecar. */
export type Trouble = NameTrouble | 'clash' | 'held' | 'along' | 'stranger';

export interface RenameLine {
  id: string;
  folder: string;
  before: string;
  after: string;
  /** What is renamed along with it. */
  followers: readonly FollowerLine[];
  trouble: Trouble | null;
  /** Why it cannot be so, in words; null where all is well. */
  problem: string | null;
  /** How a clash was settled: told apart, or left as it was. */
  settled: 'apart' | 'left' | null;
}

/** What settles a clash: nothing but the person; a number or a letter behind; the later one keeps its name. */
export const CLASH_RULES = ['refuse', 'number', 'letter', 'leave'] as const;
export type ClashRule = (typeof CLASH_RULES)[number];

export interface RenameOptions {
  clash: ClashRule;
  extension: ExtensionRule;
}

/** Name keys of the files in each folder that are not part of the batch. */
export type TakenNames = ReadonlyMap<string, ReadonlySet<string>>;

/** The new name of a file that follows: IMG_1.dng.xmp and IMG_1.xmp go with IMG_1.dng; null where it does not. */
export function followedName(name: string, before: string, after: string): string | null {
  if (name.startsWith(before)) return after + name.slice(before.length);
  const { stem } = splitName(before);
  return name.startsWith(`${stem}.`) ? splitName(after).stem + name.slice(stem.length) : null;
}

const NONE: readonly FollowerLine[] = [];
function followersOf(subject: RenameSubject, after: string): readonly FollowerLine[] {
  const { name, followers } = subject;
  if (!followers || followers.length === 0 || stays(subject, after)) return NONE;
  return followers.flatMap((one) => {
    const next = followedName(one.name, name, after);
    return next === null ? [] : [{ id: one.id, folder: one.folder, before: one.name, after: next }];
  });
}

/** A folder names are given in. */
interface Ground {
  /** Who got which name first. */
  claims: Map<string, number>;
  held: ReadonlySet<string>;
  sidecars: ReadonlySet<string>;
}
const NOTHING: ReadonlySet<string> = new Set();

/** The folders of a batch, each found once. */
function grounds(held: TakenNames): (folder: string) => Ground {
  const all = new Map<string, Ground>();
  return (folder) => {
    let ground = all.get(folder);
    if (!ground) {
      const names = held.get(folder) ?? NOTHING;
      const sidecars = new Set<string>();
      for (const name of names) if (name.endsWith('.xmp')) sidecars.add(name);
      ground = { claims: new Map(), held: names, sidecars };
      all.set(folder, ground);
    }
    return ground;
  };
}

interface Obstacle {
  trouble: Trouble;
  problem: string;
  /** The line that has the name. */
  by?: number;
}
/** @param key of `after` */
type Obstructs = (subject: RenameSubject, after: string, key: string) => Obstacle | null;
const CLASH = 'another of these would have this name';
const HELD = 'a file of this name is there already';

/**
 * All names before and after, in the order given, with those of the files that follow. A name that another file of
 * the batch gives up is free; one that stays as it is keeps its name.
 * @throws ArchiveError pattern-unclear
 */
export function previewRename(
  pattern: string,
  subjects: readonly RenameSubject[],
  held: TakenNames,
  options: RenameOptions,
  context: FillContext = { counters: new Map(), now: 0, zone: 'UTC' },
): RenameLine[] {
  const fill = filler(parsePattern(pattern), context);
  const wished: Wished = { names: [], keys: [] };
  for (const subject of subjects)
    wish(wished, withExtension(fill(subject), subject.name, options.extension));
  return settle(subjects, wished, held, options.clash);
}

/** Settle who gets which name. @param names a name for each subject */
export function settleNames(
  subjects: readonly RenameSubject[],
  names: readonly string[],
  held: TakenNames,
  rule: ClashRule,
): RenameLine[] {
  const wished: Wished = { names: [], keys: [] };
  for (const name of names) wish(wished, name);
  return settle(subjects, wished, held, rule);
}

/** Names that are wished for, and their keys. */
interface Wished {
  names: string[];
  keys: string[];
}
/** Its key is made at once: the engine puts the parts of a text together then, and need not keep them. */
function wish({ names, keys }: Wished, name: string): void {
  names.push(name);
  keys.push(nameKey(name));
}

function settle(
  subjects: readonly RenameSubject[],
  { names, keys }: Wished,
  held: TakenNames,
  rule: ClashRule,
): RenameLine[] {
  const groundOf = grounds(held);
  const lines: RenameLine[] = new Array<RenameLine>(subjects.length);
  const tried = new Map<string, number>();

  /** What stands in the way of a name, for the file and for all that follows it. */
  const obstacle: Obstructs = (subject, after, key) => {
    const ground = groundOf(subject.folder);
    const by = ground.claims.get(key);
    if (by !== undefined) return { trouble: 'clash', problem: CLASH, by };
    if (ground.held.has(key)) return { trouble: 'held', problem: HELD };
    const followers = followersOf(subject, after);
    for (const one of followers) {
      const own = nameKey(one.after);
      const theirs = groundOf(one.folder);
      if (theirs.claims.has(own))
        return along(`“${one.after}”, which goes along, would have the name of another of these`);
      if (theirs.held.has(own)) return along(`“${one.after}”, which goes along, is there already`);
    }
    const stranger =
      ground.sidecars.size > 0 ? strangeSidecar(ground.sidecars, after, followers) : null;
    return stranger === null
      ? null
      : { trouble: 'stranger', problem: `the sidecar “${stranger}” of another file lies there` };
  };

  const put = (
    at: number,
    subject: RenameSubject,
    after: string,
    key: string,
    found: Obstacle | null,
    settled: RenameLine['settled'],
  ): void => {
    const { id, folder, name: before } = subject;
    const followers = followersOf(subject, after);
    const { claims } = groundOf(folder);
    // Whoever comes first has it.
    if (found === null || !claims.has(key)) claims.set(key, at);
    for (const one of followers) {
      const theirs = groundOf(one.folder).claims;
      const own = nameKey(one.after);
      if (!theirs.has(own)) theirs.set(own, at);
    }
    const trouble = found === null ? null : found.trouble;
    const problem = found === null ? null : found.problem;
    lines[at] = { id, folder, before, after, followers, trouble, problem, settled };
  };

  // What stays as it is has its name before anybody else asks.
  for (let at = 0; at < subjects.length; at += 1) {
    const subject = subjects[at]!;
    if (stays(subject, names[at]!)) put(at, subject, names[at]!, keys[at]!, null, null);
  }
  for (let at = 0; at < subjects.length; at += 1) {
    if (lines[at] !== undefined) continue;
    const subject = subjects[at]!;
    const name = names[at]!;
    const key = keys[at]!;
    const own = nameTrouble(name);
    if (own !== null) {
      put(at, subject, name, key, { trouble: own, problem: nameProblem(name)! }, null);
      continue;
    }
    const found = obstacle(subject, name, key);
    if (found === null || rule === 'refuse' || rule === 'leave') {
      put(at, subject, name, key, found, null);
      const by = found?.by === undefined ? undefined : lines[found.by];
      // Neither has more right to it, but for one that only stays.
      if (rule === 'refuse' && by && !stays(subjects[found!.by!]!, by.after))
        lines[found!.by!] = { ...by, trouble: by.trouble ?? 'clash', problem: by.problem ?? CLASH };
      continue;
    }
    const { after, still } = apart(subject, name, rule, { obstacle, tried });
    put(at, subject, after, nameKey(after), still, 'apart');
  }
  return rule === 'leave' ? leaveThose(subjects, lines) : lines;
}

/** Neither its name nor its folder changes. */
const stays = (subject: RenameSubject, wished: string): boolean =>
  wished === subject.name && subject.moves !== true;

const along = (problem: string): Obstacle => ({ trouble: 'along', problem });

/** A sidecar that lies there alone would become this file's. */
function strangeSidecar(
  sidecars: ReadonlySet<string>,
  after: string,
  followers: readonly FollowerLine[],
): string | null {
  const beside = [`${after}.xmp`, `${splitName(after).stem}.xmp`];
  return (
    beside.find(
      (name) =>
        sidecars.has(nameKey(name)) &&
        !followers.some((one) => nameKey(one.before) === nameKey(name)),
    ) ?? null
  );
}

/** The first name behind the wished one that nothing stands in the way of. */
function apart(
  subject: RenameSubject,
  name: string,
  rule: 'number' | 'letter',
  { obstacle, tried }: { obstacle: Obstructs; tried: Map<string, number> },
): { after: string; still: Obstacle | null } {
  const key = `${subject.folder}\0${nameKey(name)}`;
  for (let number = tried.get(key) ?? 2; ; number += 1) {
    const after = rule === 'number' ? numbered(name, number) : lettered(name, number - 1);
    const own = nameTrouble(after);
    if (own !== null) return { after, still: { trouble: own, problem: nameProblem(after)! } };
    const found = obstacle(subject, after, nameKey(after));
    // The name it has already it may keep, unless another of the batch got it meanwhile.
    const keeps = stays(subject, after) && found?.trouble !== 'clash';
    if (found !== null && !keeps) continue;
    tried.set(key, number + 1);
    return { after, still: null };
  }
}

/** Those that clash stay as they are, and so do those who wanted the names they keep. */
function leaveThose(subjects: readonly RenameSubject[], lines: RenameLine[]): RenameLine[] {
  const groundOf = grounds(new Map());
  for (const [at, { folder, after, trouble, followers }] of lines.entries()) {
    if (trouble !== null) continue;
    groundOf(folder).claims.set(nameKey(after), at);
    for (const one of followers) groundOf(one.folder).claims.set(nameKey(one.after), at);
  }
  const waiting = lines.flatMap(({ trouble }, at) =>
    trouble !== null && IN_FILTER[trouble] === 'clashing' ? [at] : [],
  );
  for (let at = waiting.pop(); at !== undefined; at = waiting.pop()) {
    const line = lines[at]!;
    if (line.settled === 'left') continue;
    lines[at] = {
      ...line,
      after: line.before,
      followers: NONE,
      trouble: null,
      problem: null,
      settled: 'left',
    };
    const keeps = [line.before, ...(subjects[at]!.followers ?? []).map(({ name }) => name)];
    for (const name of keeps) {
      const by = groundOf(subjects[at]!.source ?? line.folder).claims.get(nameKey(name));
      if (by !== undefined && by !== at) waiting.push(by);
    }
  }
  return lines;
}

/** Which lines are looked at: of all, those that change, those that stay, those with some trouble. */
export const LINE_FILTERS = [
  'all',
  'changed',
  'unchanged',
  'settled',
  'empty',
  'clashing',
  'long',
  'reserved',
  'far',
] as const;
export type LineFilter = (typeof LINE_FILTERS)[number];

/** Windows takes 260 UTF-16 units for a whole path, the last being its end; macOS and Linux 1,024 and more. */
export const LONGEST_PATH = 259;

const IN_FILTER: Record<Trouble, LineFilter> = {
  empty: 'empty',
  dots: 'reserved',
  hidden: 'reserved',
  characters: 'reserved',
  reserved: 'reserved',
  edges: 'reserved',
  long: 'long',
  clash: 'clashing',
  held: 'clashing',
  along: 'clashing',
  stranger: 'clashing',
};

/** Whether a line belongs to a filter. @param room characters of the path a name of its folder stands behind */
export function isIn(filter: LineFilter, line: RenameLine, room: number): boolean {
  const { before, after, trouble, settled } = line;
  switch (filter) {
    case 'all':
      return true;
    case 'changed':
      return before !== after;
    case 'unchanged':
      return before === after;
    case 'settled':
      return settled !== null;
    case 'far':
      return before !== after && room + after.length > LONGEST_PATH;
    default:
      return trouble !== null && IN_FILTER[trouble] === filter;
  }
}

/** How many lines each filter lets through, and how many cannot be as they are. */
export function countLines(
  lines: readonly RenameLine[],
  roomOf: (folder: string) => number,
): Record<LineFilter, number> & { wrong: number } {
  const counts = Object.fromEntries(LINE_FILTERS.map((filter) => [filter, 0])) as Record<
    LineFilter,
    number
  >;
  let wrong = 0;
  for (const line of lines) {
    counts.all += 1;
    counts[line.before === line.after ? 'unchanged' : 'changed'] += 1;
    if (line.settled !== null) counts.settled += 1;
    if (line.trouble !== null) {
      wrong += 1;
      counts[IN_FILTER[line.trouble]] += 1;
    }
    if (line.before !== line.after && roomOf(line.folder) + line.after.length > LONGEST_PATH)
      counts.far += 1;
  }
  return { ...counts, wrong };
}

const WORD = /[\p{L}\p{N}]/u;
/** Whether a name may be parted there: within a word or a number no part of it is old. */
const isEdge = (name: string, at: number): boolean =>
  at <= 0 || at >= name.length || !WORD.test(name[at - 1]!) || !WORD.test(name[at]!);

/** What of a name is new: where the same beginning ends and the same end begins. */
export function changedPart(before: string, after: string): { from: number; to: number } {
  if (before === after) return { from: after.length, to: after.length };
  const most = Math.min(before.length, after.length);
  let from = 0;
  while (from < most && before[from] === after[from]) from += 1;
  while (!isEdge(after, from)) from -= 1;
  let same = 0;
  while (same < most - from && before.at(-1 - same) === after.at(-1 - same)) same += 1;
  while (!isEdge(after, after.length - same)) same -= 1;
  return { from, to: after.length - same };
}
