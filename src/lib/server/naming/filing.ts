import type { Kysely } from 'kysely';
import { ArchiveError } from '#core/errors';
import { folderPieces } from '#core/naming/fill';
import { filer, type FilingPreview, type FilingRules } from '#core/naming/filing';
import { parsePattern } from '#core/naming/grammar';
import { nameKey, pathProblem, type ExtensionRule } from '#core/naming/names';
import { previewRename, settleNames, type ClashRule } from '#core/naming/rename';
import type { Piece } from '#core/naming/piece';
import type { Viewer } from '#core/people/viewer';
import { counted, formatBytes } from '#core/text/quantities';
import type { Database } from '../db/schema';
import { filesOf } from '../files/located';
import type { FolderOfPlace } from '../places/folderRows';
import { allPlaces, placesHere } from '../places/places';
import { asSubject, findCandidates, movesOf } from './candidates';
import { keepStanding, readStanding, type Standing } from './counters';
import { NO_COPIES, roomFor, tellPlan, type Going } from './filingTold';
import { emptiedBy, heldAt, reader, whereKey, type Where } from './ground';
import { startMoves } from './moves';
import { houseZone, refuseTooMany } from './rename';
import { subjectsOf } from './subjects';

type Db = Kysely<Database>;

export interface FilingWish extends FilingRules {
  viewer: Viewer;
  itemIds: string[];
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

interface Plan {
  going: Going[];
  preview: FilingPreview;
  emptied: Where[];
  /** New folders, those above before those below. */
  made: FolderOfPlace[];
  naming: Piece[];
  standing: Standing;
}

/** Files by folder and name, as folders tell what leaves them. */
const leavingOf = (files: readonly (Where & { name: string })[]): Set<string> =>
  new Set(files.map((file) => `${whereKey(file)}/${nameKey(file.name)}`));

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
  const files = await filesOf(db, itemIds);
  const { candidates, folders, notHere } = await findCandidates(db, {
    subjects: await subjectsOf(db, wish.viewer, itemIds, { pieces, files }),
    copies,
    files,
    places,
    namesAt,
    here: await placesHere(all),
    file: filer(wish, context),
    into: into && { placeId: into.placeId, folder: into.path },
  });

  // Whoever lies there may still get a new name; a copy that lies there is there.
  const chosen = candidates.filter(
    ({ to, goes }) => goes || (to !== null && naming.length > 0 && !copies),
  );
  const leaving = leavingOf(
    copies ? [] : chosen.flatMap(({ original, along }) => [original, ...along]),
  );
  const held = await heldAt(
    db,
    chosen.map(({ to }) => to!),
    namesAt,
    leaving,
  );
  const subjects = chosen.map(asSubject);
  const lines = wish.naming
    ? previewRename(wish.naming.pattern, subjects, held, { ...wish.naming, clash }, context)
    : settleNames(
        subjects,
        subjects.map(({ name }) => name),
        held,
        clash,
      );
  const going = lines.flatMap((line, at): Going[] => {
    const candidate = chosen[at]!;
    const moves = line.settled === 'left' ? [] : movesOf(candidate, line, copies);
    return moves.length > 0 ? [{ line, candidate, to: candidate.to!, moves }] : [];
  });

  const gone = leavingOf(
    going
      .filter(({ candidate }) => candidate.goes)
      .flatMap(({ candidate, moves }) =>
        moves.map(({ before }) => ({
          placeId: candidate.original.placeId,
          folder: before.folder!,
          name: before.name,
        })),
      ),
  );
  const emptied = copies
    ? []
    : await emptiedBy(
        going.map(({ candidate }) => candidate.original),
        going.map(({ to }) => to),
        namesAt,
        gone,
      );
  const told = tellPlan({ copies, going, candidates, emptied, places, folders }, notHere);
  const preview = { ...told, ...(copies ? await roomFor(going, places) : NO_COPIES) };
  const idOf = new Map(all.map(({ id, name }) => [name, id]));
  const made = preview.tree
    .filter(({ isNew }) => isNew)
    .map(({ place, path }) => ({ placeId: idOf.get(place)!, path }));
  return { going, emptied, made, preview, naming, standing };
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
  const { going, preview, emptied, made, naming, standing } = await plan(db, wish);
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
    throw new ArchiveError('name-refused', 'All of them lie where they belong already.');
  if (preview.bytes > preview.free)
    throw new ArchiveError(
      'disk-full',
      `The copies take ${formatBytes(preview.bytes)}; ${formatBytes(preview.free)} are free there.`,
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
    made,
    emptied: wish.removeEmptied
      ? emptied.map(({ placeId, folder }) => ({ placeId, path: folder }))
      : [],
    also: (transaction) => keepStanding(transaction, naming, standing),
  });
}
