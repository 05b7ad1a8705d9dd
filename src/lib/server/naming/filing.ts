import { setImmediate as letOthers } from 'node:timers/promises';
import type { Kysely } from 'kysely';
import { ArchiveError } from '#core/errors';
import { folderPieces } from '#core/naming/fill';
import { filer, type FilingPreview, type FilingRules } from '#core/naming/filing';
import { parsePattern } from '#core/naming/grammar';
import { pathProblem, type ExtensionRule } from '#core/naming/names';
import { previewRename, settleNames, type ClashRule } from '#core/naming/rename';
import type { Piece } from '#core/naming/piece';
import type { Viewer } from '#core/sight/viewer';
import { counted, formatBytes } from '#core/text/quantities';
import type { Database } from '../db/schema';
import type { FolderOfPlace } from '../places/folderRows';
import { placesHere } from '../places/here';
import { allPlaces } from '../places/places';
import { asSubject, findCandidates, movesOf } from './candidates';
import { keepStanding, readStanding, type Standing } from './counters';
import {
  fingerprintOfPlan,
  newFolders,
  NO_COPIES,
  roomFor,
  tellPlan,
  type PlanOutcome,
  type Going,
} from './filingTold';
import { emptiedBy, heldAt, Leaving, reader, Wheres, type Where } from './ground';
import { startMoves } from './moves';
import { houseZone, refuseTooMany } from './rename';
import { subjectsOf } from './subjects';
import { filedOf, type SeenIds } from '../sight/seen';

type Db = Kysely<Database>;

export interface FilingWish extends FilingRules {
  viewer: Viewer;
  itemIds: SeenIds;
  /** Files stay, and verified copies are laid there instead. */
  copies?: boolean;
  /** Where it begins: a folder of a place; null: at the top of the place each lies in. */
  into: FolderOfPlace | null;
  /** New names along the way; left out: they keep theirs. */
  naming?: { pattern: string; extension: ExtensionRule } | undefined;
  clash: ClashRule;
  /** Folders that this leaves empty are removed. */
  removeEmptied: boolean;
  now?: number | undefined;
}

interface Plan extends PlanOutcome {
  notHere: number;
  fingerprint: string;
  /** What copies take, and what is free where they go to. */
  room: Pick<FilingPreview, 'bytes' | 'free'>;
  naming: Piece[];
  standing: Standing;
}

/** @throws ArchiveError value-refused, pattern-unclear, name-refused, not-allowed, not-found */
async function plan(db: Db, wish: FilingWish): Promise<Plan> {
  const { itemIds, into, clash, copies = false } = wish;
  refuseTooMany(itemIds);
  const problem = into ? pathProblem(into.path) : null;
  if (problem) throw new ArchiveError('name-refused', `${problem}.`);
  const naming = wish.naming ? parsePattern(wish.naming.pattern) : [];
  const pieces = [...folderPieces(wish.pattern).flat(), ...naming];
  const standing = await readStanding(db, naming);
  const context = {
    counters: standing.counters,
    now: wish.now ?? Date.now(),
    zone: houseZone(),
  };
  const all = await allPlaces(db);
  const places = new Map(all.map((place) => [place.id, place]));
  const namesAt = reader(places);
  const wheres = new Wheres();
  const { subjects: known, files } = await subjectsOf(db, wish.viewer, await filedOf(db, itemIds), {
    ...{ pieces, places },
  });
  const { candidates, folders, notHere } = await findCandidates(db, {
    subjects: known,
    copies,
    files,
    places,
    wheres,
    namesAt,
    here: await placesHere(db, all),
    file: filer(wish, context),
    into,
  });

  // Whoever lies there may still get a new name; a copy that lies there is there.
  const chosen = candidates.filter(
    ({ to, goes }) => goes || (to !== null && naming.length > 0 && !copies),
  );
  const leaving = new Leaving();
  if (!copies)
    for (const { original, along } of chosen) {
      leaving.add(wheres.of(original), original.name);
      for (const file of along) leaving.add(wheres.of(file), file.name);
    }
  const targets = new Set(chosen.map(({ to }) => to!));
  const held = await heldAt(db, targets, namesAt, wheres, leaving);
  const subjects = chosen.map(asSubject);
  // A hundred thousand take a second: whoever else asks has a turn in between.
  await letOthers();
  const lines = wish.naming
    ? previewRename(wish.naming.pattern, subjects, held, { ...wish.naming, clash }, context)
    : settleNames(
        subjects,
        subjects.map(({ name }) => name),
        held,
        clash,
      );
  await letOthers();
  const going: Going[] = [];
  const gone = new Leaving();
  const sources = new Set<Where>();
  for (const [at, line] of lines.entries()) {
    if (line.settled === 'left') continue;
    const candidate = chosen[at]!;
    const moves = movesOf(candidate, line, copies);
    if (moves.length === 0) continue;
    going.push({ line, candidate, to: candidate.to!, moves });
    // Folders within a bundle come along, and are left with it.
    const { placeId } = candidate.to!;
    if (candidate.isBundle)
      for (const { after } of moves) folders.get(placeId)!.join(after.folder!);
    if (candidate.goes)
      for (const { before } of moves) {
        const source = wheres.at(candidate.from.placeId, before.folder!);
        gone.add(source, before.name);
        sources.add(source);
      }
  }
  const emptied = copies
    ? []
    : await emptiedBy({ sources, into: new Set(going.map(({ to }) => to)) }, namesAt, wheres, gone);
  const found = { copies, going, candidates, emptied, places, folders };
  await letOthers();
  return {
    ...found,
    notHere,
    fingerprint: fingerprintOfPlan(found),
    room: copies ? await roomFor(going, places) : NO_COPIES,
    naming,
    standing,
  };
}

/** Where a plan leads, as a tree and move by move; nothing is changed. */
export async function filingPreview(db: Db, wish: FilingWish): Promise<FilingPreview> {
  const { notHere, fingerprint, room, ...found } = await plan(db, wish);
  await letOthers();
  return { ...tellPlan(found, notHere), ...room, fingerprint };
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
  const found = await plan(db, wish);
  const { going, emptied, fingerprint, room, naming, standing } = found;
  if (wish.fingerprint !== undefined && wish.fingerprint !== fingerprint)
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
    throw new ArchiveError('name-refused', 'All of them lie where they belong already.');
  if (room.bytes > room.free)
    throw new ArchiveError(
      'disk-full',
      `The copies take ${formatBytes(room.bytes)}; ${formatBytes(room.free)} are free there.`,
    );
  const what = counted(going.length, 'item');
  const by = wish.pattern === '' ? '' : ` by “${wish.pattern}”`;
  const [filed, filing] = wish.copies ? ['Copied', 'Copying'] : ['Filed', 'Filing'];
  return startMoves(db, {
    kind: 'filing',
    copies: wish.copies === true,
    actorId,
    summary: `${filed} ${what}${by}`,
    title: `${filing} ${what}`,
    moves: going.flatMap(({ moves }) => moves),
    made: newFolders(found),
    emptied: wish.removeEmptied
      ? emptied.map(({ placeId, folder }) => ({ placeId, path: folder }))
      : [],
    also: (transaction) => keepStanding(transaction, naming, standing),
  });
}
