import {
  treeOf,
  type FiledFolder,
  type FiledMoves,
  type FilingPreview,
  type Folders,
} from '#core/naming/filing';
import { fingerprintOf } from '#core/naming/fingerprint';
import { LONGEST_PATH, type RenameLine } from '#core/naming/rename';
import { freeIn } from '../files/disk';
import { joinPath, splitPath } from '../files/paths';
import type { FolderOfPlace } from '../places/folderRows';
import type { Place } from '../places/places';
import type { Candidate } from './candidates';
import type { Where } from './ground';
import type { Move } from './moves';

/** One item that goes: where from, where to, under which name, with which files. */
export interface Going {
  line: RenameLine;
  candidate: Candidate;
  to: Where;
  moves: Move[];
}

/** What a plan came to. */
export interface PlanOutcome {
  copies: boolean;
  going: readonly Going[];
  candidates: readonly Candidate[];
  emptied: readonly Where[];
  places: ReadonlyMap<string, Place>;
  folders: ReadonlyMap<string, Folders>;
}

/** Folders of the result, with what comes into each and what of the choice lies there. */
function filedFolders({ going, candidates, places, folders }: PlanOutcome): FiledFolder[] {
  const filed = new Map<Where, FiledFolder>();
  const folderAt = (where: Where): FiledFolder => {
    let one = filed.get(where);
    if (!one) {
      const { placeId, folder: path } = where;
      const isNew = folders.get(placeId)!.isNew(path);
      one = { place: places.get(placeId)!.name, path, isNew, comes: 0, stays: 0 };
      filed.set(where, one);
    }
    return one;
  };
  for (const { to, goes } of candidates) if (to !== null && !goes) folderAt(to).stays += 1;
  for (const { to } of going) folderAt(to).comes += 1;
  return [...filed.values()];
}

/** Folders a plan makes, those above before those below. */
export function newFolders({ going, folders }: PlanOutcome): FolderOfPlace[] {
  const made = new Map<string, FolderOfPlace>();
  const add = (placeId: string, folder: string): void => {
    for (let path = folder; path !== ''; path = splitPath(path).folder)
      if (folders.get(placeId)!.isNew(path)) made.set(`${placeId}/${path}`, { placeId, path });
  };
  for (const { placeId, folder } of new Set(going.map(({ to }) => to))) add(placeId, folder);
  for (const { candidate, to, moves } of going)
    if (candidate.isBundle) for (const { after } of moves) add(to.placeId, after.folder!);
  return [...made.values()].sort((a, b) => (a.path < b.path ? -1 : 1));
}

/** Every move; what stands in the way before all that does not. */
function listMoves({ going, places }: PlanOutcome) {
  const at = new Map<string, number>();
  const moves: FiledMoves = {
    folders: [],
    from: [],
    to: [],
    before: [],
    after: [],
    along: [],
    problems: [],
  };
  const folderAt = (placeId: string, folder: string): number => {
    const path = joinPath(places.get(placeId)!.name, folder);
    let position = at.get(path);
    if (position === undefined) {
      position = moves.folders.push(path) - 1;
      at.set(path, position);
    }
    return position;
  };
  let far = 0;
  const wrong = going.filter(({ line }) => line.problem !== null);
  const right = going.filter(({ line }) => line.problem === null);
  for (const { line, candidate, to, moves: own } of [...wrong, ...right]) {
    const room = places.get(to.placeId)!.root.length + 1;
    if (line.problem !== null) moves.problems.push([moves.from.length, line.problem]);
    for (const [nth, { before, after }] of own.entries()) {
      const folder = after.folder!;
      if (room + folder.length + (folder === '' ? 0 : 1) + after.name.length > LONGEST_PATH)
        far += 1;
      if (nth > 0) moves.along.push(moves.from.length);
      moves.from.push(folderAt(candidate.from.placeId, before.folder!));
      moves.to.push(folderAt(to.placeId, folder));
      moves.before.push(before.name);
      moves.after.push(after.name === before.name ? null : after.name);
    }
  }
  return { moves, files: moves.from.length, far, problems: wrong.length };
}

/** All that a plan would do, in a few characters: move or copy, names, folders, and what is left empty. */
export const fingerprintOfPlan = ({ copies, going, emptied }: PlanOutcome): string =>
  fingerprintOf([
    ...(copies ? [{ id: 'copies', folder: '', before: '', after: '', followers: [] }] : []),
    ...going.map(({ line }) => line),
    ...emptied.map(({ placeId, folder }) => ({
      id: placeId,
      folder,
      before: folder,
      after: '',
      followers: [],
    })),
  ]);

/** What a plan would do, in words and counts. */
export function tellPlan(
  found: PlanOutcome,
  notHere: number,
): Omit<FilingPreview, 'bytes' | 'free' | 'fingerprint'> {
  const { going, candidates, emptied, places, folders } = found;
  const nameOf = (id: string): string => places.get(id)!.name;
  const idOf = new Map([...places].map(([id, { name }]) => [name, id]));
  const filed = filedFolders(found);
  const tree = treeOf(filed, (place, path) => folders.get(idOf.get(place)!)!.isNew(path));
  const among = new Set<string>();
  for (const { candidate, to } of going) among.add(candidate.from.placeId).add(to.placeId);
  return {
    tree,
    notHere,
    changed: going.length,
    ...listMoves(found),
    stays: candidates.filter(({ to, goes }) => to !== null && !goes).length,
    left: candidates.filter(({ to }) => to === null).length,
    partly: candidates.filter(({ isPart }) => isPart).length,
    made: tree.filter(({ isNew }) => isNew).length,
    joined: filed.filter(({ isNew, comes }) => !isNew && comes > 0).length,
    shared: [...among].flatMap((id) => (places.get(id)!.shared ? [nameOf(id)] : [])),
    emptied: emptied.map(({ placeId, folder }) => joinPath(nameOf(placeId), folder)),
  };
}

export const NO_COPIES = { bytes: 0, free: 0 };

/** Bytes that copies take, and how many are free where they go to: of several disks the one with the least. */
export async function roomFor(
  going: readonly Going[],
  places: ReadonlyMap<string, Place>,
): Promise<{ bytes: number; free: number }> {
  let bytes = 0;
  for (const { original, along } of going.map(({ candidate }) => candidate))
    for (const { size } of [original, ...along]) bytes += size;
  const roots = new Set(going.map(({ to }) => places.get(to.placeId)!.root));
  const free = await Promise.all([...roots].map(freeIn));
  return { bytes, free: Math.min(...free, Number.MAX_SAFE_INTEGER) };
}
