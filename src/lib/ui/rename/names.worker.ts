import { namedKey } from '#core/naming/fill';
import { fingerprintOf } from '#core/naming/fingerprint';
import { AS_GIVEN, inCountingOrder } from '#core/naming/order';
import {
  changedPart,
  countLines,
  isIn,
  previewRename,
  type LineFilter,
  type RenameLine,
  type RenameSubject,
} from '#core/naming/rename';
import { heldIn, unpackSubjects, type NamingMaterial } from '#core/naming/wire';
import type { NamingChoices } from '#core/naming/wish';

/** Names of up to a hundred thousand files, reckoned beside the page: it holds them all and tells what is looked at. */
export interface ShownName {
  /** Of the item. */
  id: string;
  before: string;
  after: string;
  /** What of `after` is new. */
  from: number;
  to: number;
  problem: string | null;
  word: string;
  along: boolean;
}
export type Counts = ReturnType<typeof countLines>;
export type NamesWish =
  | { ask: 'load'; material: NamingMaterial }
  | { ask: 'plan'; choices: NamingChoices }
  | { ask: 'rows'; filter: LineFilter; from: number; to: number }
  | { ask: 'fingerprint' };

let material: NamingMaterial | null = null;
let subjects: RenameSubject[] = [];
let held: ReturnType<typeof heldIn> = new Map();
let rooms = new Map<string, number>();
let lines: RenameLine[] = [];
/** Rows of the filter that is looked at: line and follower, -1 for the line itself. */
let rows: { filter: LineFilter; at: [line: number, follower: number][] } | null = null;
/** The order that was asked for last, and what it led to: it is sorted once. */
let sorted: { key: string; subjects: RenameSubject[] } = { key: '', subjects: [] };

const roomOf = (folder: string): number => rooms.get(folder) ?? 0;

function load(given: NamingMaterial): null {
  material = given;
  subjects = unpackSubjects(given.columns);
  held = heldIn(given.columns.folders);
  rooms = new Map(given.columns.folders.map(({ id, room }) => [id, room]));
  sorted = { key: '', subjects: [] };
  return null;
}

function plan({ pattern, clash, extension, order = AS_GIVEN }: NamingChoices): Counts {
  const { counters, now, zone } = material!;
  const key = JSON.stringify(order);
  if (key !== sorted.key) sorted = { key, subjects: inCountingOrder(subjects, order) };
  const stand = new Map(Object.entries(counters).map(([name, next]) => [namedKey(name), next]));
  lines = previewRename(
    pattern,
    sorted.subjects,
    held,
    { clash, extension },
    {
      counters: stand,
      now,
      zone,
    },
  );
  rows = null;
  return countLines(lines, roomOf);
}

function rowsOf(filter: LineFilter): [number, number][] {
  if (rows?.filter === filter) return rows.at;
  const at: [number, number][] = [];
  for (const [index, line] of lines.entries()) {
    if (!isIn(filter, line, roomOf(line.folder))) continue;
    at.push([index, -1]);
    for (let follower = 0; follower < line.followers.length; follower += 1)
      at.push([index, follower]);
  }
  rows = { filter, at };
  return at;
}

const SETTLED = { apart: 'told apart', left: 'left as it is' } as const;
function shown([index, follower]: [number, number]): ShownName {
  const line = lines[index]!;
  const { id, problem, settled } = line;
  const { before, after } = follower < 0 ? line : line.followers[follower]!;
  const own = settled ? SETTLED[settled] : before === after ? 'stays' : '';
  return {
    id,
    before,
    after,
    ...changedPart(before, after),
    problem: follower < 0 ? problem : null,
    word: follower < 0 ? own : 'goes along',
    along: follower >= 0,
  };
}

function answer(asked: NamesWish): unknown {
  switch (asked.ask) {
    case 'load':
      return load(asked.material);
    case 'plan':
      return plan(asked.choices);
    case 'rows': {
      const at = rowsOf(asked.filter);
      return { total: at.length, rows: at.slice(asked.from, asked.to).map(shown) };
    }
    case 'fingerprint':
      return fingerprintOf(lines);
  }
}

self.onmessage = ({ data }: MessageEvent<{ id: number; asked: NamesWish }>) => {
  try {
    self.postMessage({ id: data.id, answer: answer(data.asked) });
  } catch (error) {
    self.postMessage({ id: data.id, wrong: (error as Error).message });
  }
};
