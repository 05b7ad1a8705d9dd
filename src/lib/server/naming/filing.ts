import type { Kysely } from 'kysely';
import { ArchiveError } from '#core/errors';
import { namedKey, type Counters } from '#core/naming/fill';
import {
  filer,
  treeOf,
  type FiledFolder,
  type FiledMove,
  type FilingPreview,
  type FilingRules,
} from '#core/naming/filing';
import { fingerprintOf } from '#core/naming/fingerprint';
import { parsePattern } from '#core/naming/grammar';
import { nameKey, pathProblem, type ExtensionRule } from '#core/naming/names';
import {
  LONGEST_PATH,
  previewRename,
  settleNames,
  type ClashRule,
  type RenameLine,
  type RenameSubject,
} from '#core/naming/rename';
import { folderPieces } from '#core/naming/fill';
import type { Viewer } from '#core/people/viewer';
import { counted } from '#core/text/quantities';
import type { Database } from '../db/schema';
import { refuseHandsOff } from '../files/door';
import { filesOf, type LocatedFile } from '../files/located';
import { joinPath, splitPath } from '../files/paths';
import { allPlaces, placesHere, type Place } from '../places/places';
import {
  emptiedBy,
  foldersOfPlaces,
  heldAt,
  joinDisk,
  reader,
  whereKey,
  type Where,
} from './ground';
import { startMoves, type Move } from './moves';
import { houseZone, keepNamed } from './rename';
import { namedCountersOf, subjectsOf } from './subjects';

type Db = Kysely<Database>;

const MOST_ITEMS = 100_000;

export interface FilingWish extends FilingRules {
  viewer: Viewer;
  itemIds: string[];
  /** Where it begins: a folder of a place; null: at the top of the place each lies in. */
  into: { placeId: string; path: string } | null;
  /** New names along the way; left out: they keep theirs. */
  naming?: { pattern: string; extension: ExtensionRule } | undefined;
  clash: ClashRule;
  /** Folders that this leaves empty are removed. */
  removeEmptied: boolean;
  now?: number | undefined;
}

/** One item that goes: where from, where to, under which name, with which files. */
interface Going {
  line: RenameLine;
  original: LocatedFile;
  to: Where;
  /** Everything that goes, the original first. */
  moves: Move[];
}

interface Plan {
  going: Going[];
  preview: FilingPreview;
  emptied: Where[];
  /** New folders, those above before those below. */
  made: { placeId: string; path: string }[];
  counters: Counters;
}

/** Files of an item that go where its original goes: beside it, or below it in a bundle of its own. */
const isAlong = (original: LocatedFile, file: LocatedFile): boolean =>
  file.placeId === original.placeId &&
  (file.role === 'part'
    ? file.folder === original.folder || file.folder.startsWith(`${original.folder}/`)
    : file.folder === original.folder && file.role !== 'copy');

interface Candidate {
  subject: RenameSubject;
  original: LocatedFile;
  along: LocatedFile[];
  isBundle: boolean;
  to: Where | null;
  isPart: boolean;
}

/** Files by their items. */
function byItem(files: readonly LocatedFile[]): Map<string, LocatedFile[]> {
  const found = new Map<string, LocatedFile[]>();
  for (const file of files) {
    const own = found.get(file.itemId);
    if (own) own.push(file);
    else found.set(file.itemId, [file]);
  }
  return found;
}

/** Move steps of an item whose original gets a name in a folder. */
function movesOf({ original, along, isBundle }: Candidate, to: Where, line: RenameLine): Move[] {
  const names = new Map(line.followers.map(({ id, after }) => [id, after]));
  const isOther = original.placeId !== to.placeId;
  return [original, ...along].flatMap((file): Move[] => {
    const rest = isBundle ? file.folder.slice(original.folder.length).replace(/^\//, '') : '';
    const own = file === original ? line.after : (names.get(file.id) ?? file.name);
    const name = isBundle ? file.name : own;
    const spot = (placeId: string, folder: string) => ({
      ...(isOther ? { placeId } : {}),
      folder,
    });
    const before = { ...spot(file.placeId, file.folder), name: file.name };
    const after = { ...spot(to.placeId, joinPath(to.folder, rest)), name };
    return before.folder === after.folder && before.name === name && !isOther
      ? []
      : [{ fileId: file.id, itemId: file.itemId, before, after }];
  });
}

/** @throws ArchiveError value-refused, pattern-unclear, not-allowed, not-found */
async function plan(db: Db, wish: FilingWish): Promise<Plan> {
  const { itemIds, into } = wish;
  if (itemIds.length > MOST_ITEMS)
    throw new ArchiveError('value-refused', `At most ${MOST_ITEMS} items at once.`);
  const naming = wish.naming ? parsePattern(wish.naming.pattern) : [];
  const pieces = [...folderPieces(wish.pattern).flat(), ...naming];
  const all = await allPlaces(db);
  const places = new Map(all.map((place) => [place.id, place]));
  const here = await placesHere(all);
  const problem = into ? pathProblem(into.path) : null;
  if (problem) throw new ArchiveError('name-refused', `${problem}.`);
  const files = await filesOf(db, itemIds);
  const subjects = await subjectsOf(db, wish.viewer, itemIds, { pieces, files });
  const [now, zone] = [wish.now ?? Date.now(), houseZone()];
  const stand = await namedCountersOf(db, naming);
  const counters: Counters = new Map(
    Object.entries(stand).map(([name, next]) => [namedKey(name), next]),
  );
  const file = filer(wish, { counters: new Map(), now, zone });
  const own = byItem(files);
  const folders = await foldersOfPlaces(db, [...places.keys()]);
  const namesAt = reader(places);

  let notHere = 0;
  const candidates = subjects.flatMap((subject): Candidate[] => {
    const [original, ...others] = own.get(subject.id)!;
    if (original!.state === 'missing' || !here.get(original!.placeId)) {
      notHere += 1;
      return [];
    }
    const along = others.filter((one) => one.state !== 'missing' && isAlong(original!, one));
    // A bundle whose parts lie elsewhere cannot go as a whole, and in pieces its document would not find them.
    const isScattered = others.some((one) => one.role === 'part' && !isAlong(original!, one));
    const isBundle = along.some(({ role }) => role === 'part') && original!.folder !== '';
    const { path, isPart } = file(subject);
    const base = into ?? { placeId: original!.placeId, path: '' };
    const folder = joinPath(
      base.path,
      path ?? '',
      isBundle ? splitPath(original!.folder).name : '',
    );
    const to = path === null || isScattered ? null : { placeId: base.placeId, folder };
    return [{ subject, original: original!, along, isBundle, to, isPart }];
  });
  for (const place of new Set(
    candidates.flatMap(({ original, to }) => (to ? [original.placeId, to.placeId] : [])),
  )) {
    const { name, handsOff } = places.get(place) ?? refuseNoPlace();
    refuseHandsOff({ place: name, handsOff });
    if (!here.get(place)) throw new ArchiveError('not-found', `“${name}” is away.`);
  }
  await joinDisk(
    folders,
    namesAt,
    candidates.flatMap(({ to }) => to ?? []),
  );
  for (const candidate of candidates)
    if (candidate.to)
      candidate.to.folder = folders.get(candidate.to.placeId)!.join(candidate.to.folder);

  const isGoing = ({ original, to }: Candidate): boolean =>
    to !== null && (to.placeId !== original.placeId || to.folder !== original.folder);
  const chosen = candidates.filter((one) => one.to !== null && (isGoing(one) || naming.length > 0));
  const leaving = new Set(
    chosen.flatMap(({ original, along }) =>
      [original, ...along].map((one) => `${whereKey(one)}/${nameKey(one.name)}`),
    ),
  );
  const held = await heldAt(
    chosen.map(({ to }) => to!),
    namesAt,
    leaving,
  );
  const asked = chosen.map((one): RenameSubject => {
    const folder = whereKey(one.to!);
    const followers = one.along
      .filter(({ role }) => role !== 'part')
      .map(({ id, name }) => ({ id, name, folder }));
    return {
      ...one.subject,
      folder,
      followers,
      source: whereKey(one.original),
      moves: isGoing(one),
    };
  });
  const lines = wish.naming
    ? previewRename(
        wish.naming.pattern,
        asked,
        held,
        { ...wish.naming, clash: wish.clash },
        {
          ...{ counters, now, zone },
        },
      )
    : settleNames(
        asked,
        asked.map(({ name }) => name),
        held,
        wish.clash,
      );
  const going = lines.flatMap((line, at): Going[] => {
    const candidate = chosen[at]!;
    const moves = line.settled === 'left' ? [] : movesOf(candidate, candidate.to!, line);
    return moves.length > 0
      ? [{ line, original: candidate.original, to: candidate.to!, moves }]
      : [];
  });
  const sources = going.map(({ original }) => original);
  const gone = new Set(
    going.flatMap(({ original, moves }) =>
      moves
        .filter(
          ({ before, after }) => before.folder !== after.folder || before.placeId !== after.placeId,
        )
        .map(
          ({ before }) =>
            `${whereKey({ placeId: original.placeId, folder: before.folder! })}/${nameKey(before.name)}`,
        ),
    ),
  );
  const emptied = await emptiedBy(
    sources,
    going.map(({ to }) => to),
    namesAt,
    gone,
  );
  const preview = tell({ going, candidates, emptied, notHere, places, folders, isGoing });
  const idOf = new Map(all.map(({ id, name }) => [name, id]));
  const made = preview.tree
    .filter(({ isNew }) => isNew)
    .map(({ place, path }) => ({ placeId: idOf.get(place)!, path }));
  return { going, counters, emptied, made, preview };
}

function refuseNoPlace(): never {
  throw new ArchiveError('not-found', 'This place is not among the holdings.');
}

/** Moves that are listed; more than anybody reads. */
const MOST_LISTED = 5000;

function tell({
  going,
  candidates,
  emptied,
  notHere,
  places,
  folders,
  isGoing,
}: {
  going: Going[];
  candidates: Candidate[];
  emptied: Where[];
  notHere: number;
  places: Map<string, Place>;
  folders: Awaited<ReturnType<typeof foldersOfPlaces>>;
  isGoing: (candidate: Candidate) => boolean;
}): FilingPreview {
  const nameOf = (placeId: string): string => places.get(placeId)!.name;
  const idOf = new Map([...places.values()].map(({ id, name }) => [name, id]));
  const filed = new Map<string, FiledFolder>();
  const put = ({ placeId, folder }: Where, part: 'comes' | 'stays'): void => {
    const key = whereKey({ placeId, folder });
    const isNew = folders.get(placeId)!.isNew(folder);
    const one = filed.get(key) ?? {
      ...{ place: nameOf(placeId), path: folder, isNew, comes: 0, stays: 0 },
    };
    one[part] += 1;
    filed.set(key, one);
  };
  const whole = ({ placeId, folder }: Where, name: string): string =>
    joinPath(nameOf(placeId), folder, name);
  const stays = candidates.filter((one) => one.to !== null && !isGoing(one));
  for (const { to } of stays) put(to!, 'stays');
  for (const { to } of going) put(to, 'comes');
  const lines: FiledMove[] = [];
  let [files, problems, far] = [0, 0, 0];
  // What stands in the way is listed before all that does not.
  const listed = [
    ...going.filter(({ line }) => line.problem !== null),
    ...going.filter(({ line }) => line.problem === null),
  ];
  for (const { line, original, to, moves: own } of listed) {
    files += own.length;
    if (line.problem !== null) problems += 1;
    const root = places.get(to.placeId)!.root.length + 1;
    for (const [at, { before, after }] of own.entries()) {
      if (root + after.folder!.length + 1 + after.name.length > LONGEST_PATH) far += 1;
      if (lines.length < MOST_LISTED)
        lines.push({
          id: line.id,
          before: whole({ placeId: original.placeId, folder: before.folder! }, before.name),
          after: whole({ placeId: to.placeId, folder: after.folder! }, after.name),
          problem: at === 0 ? line.problem : null,
          along: at > 0,
        });
    }
  }
  const tree = treeOf([...filed.values()], (place, path) =>
    folders.get(idOf.get(place)!)!.isNew(path),
  );
  return {
    ...{ tree, lines, changed: going.length, files, notHere, problems, far },
    stays: stays.length,
    left: candidates.filter(({ to }) => to === null).length,
    partly: candidates.filter(({ isPart }) => isPart).length,
    made: tree.filter(({ isNew }) => isNew).length,
    shared: [
      ...new Set(going.flatMap(({ original, to }) => [original.placeId, to.placeId])),
    ].flatMap((id) => (places.get(id)!.shared ? [nameOf(id)] : [])),
    joined: [...filed.values()].filter(({ isNew, comes }) => !isNew && comes > 0).length,
    emptied: emptied.map((where) => whole(where, '').replace(/\/$/, '')),
    fingerprint: fingerprintOf([
      ...going.map(({ line }) => line),
      ...emptied.map(({ placeId, folder }) => ({
        ...{ id: placeId, folder, before: folder, after: '', followers: [] },
        ...{ trouble: null, problem: null, settled: null },
      })),
    ]),
  };
}

/** Where a plan leads, as a tree and move by move; nothing is changed. */
export async function filingPreview(db: Db, wish: FilingWish): Promise<FilingPreview> {
  return (await plan(db, wish)).preview;
}

/**
 * File by a plan: noted in the ledger first, carried out by a job, undone by the ledger.
 * @param fingerprint of the preview that was seen
 * @returns the operation
 * @throws ArchiveError conflict, name-refused, not-allowed, not-found
 */
export async function startFiling(
  db: Db,
  actorId: string | null,
  wish: FilingWish & { fingerprint?: string },
): Promise<string> {
  const { going, preview, emptied, made, counters } = await plan(db, wish);
  if (wish.fingerprint !== undefined && wish.fingerprint !== preview.fingerprint)
    throw new ArchiveError(
      'conflict',
      'Files, folders or records were changed since this was shown; look at it again.',
    );
  const wrong = going.find(({ line }) => line.problem !== null)?.line;
  if (wrong)
    throw new ArchiveError('name-refused', `“${wrong.after}”: ${wrong.problem}.`, {
      name: wrong.after,
    });
  if (going.length === 0)
    throw new ArchiveError('name-refused', 'All these files lie where they belong already.');
  const what = counted(going.length, 'item');
  const by = wish.pattern === '' ? '' : ` by “${wish.pattern}”`;
  return startMoves(db, {
    ...{ kind: 'filing', actorId, summary: `Filed ${what}${by}`, title: `Filing ${what}` },
    moves: going.flatMap(({ moves }) => moves),
    made,
    emptied: wish.removeEmptied
      ? emptied.map(({ placeId, folder }) => ({ placeId, path: folder }))
      : [],
    also: async (transaction) => {
      if (wish.naming) await keepNamed(transaction, wish.naming.pattern, counters);
    },
  });
}
