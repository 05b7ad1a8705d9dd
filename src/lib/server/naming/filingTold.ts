import {
  treeOf,
  type FiledFolder,
  type FiledMove,
  type FilingPreview,
  type Folders,
} from '#core/naming/filing';
import { fingerprintOf } from '#core/naming/fingerprint';
import { LONGEST_PATH, type RenameLine } from '#core/naming/rename';
import { freeIn } from '../files/disk';
import { joinPath } from '../files/paths';
import type { Place } from '../places/places';
import type { Candidate } from './candidates';
import { whereKey, type Where } from './ground';
import type { Move } from './moves';

/** One item that goes: where from, where to, under which name, with which files. */
export interface Going {
  line: RenameLine;
  candidate: Candidate;
  to: Where;
  moves: Move[];
}

/** Moves that are listed; more than anybody reads. */
const MOST_LISTED = 5000;

interface Found {
  copies: boolean;
  going: readonly Going[];
  candidates: readonly Candidate[];
  emptied: readonly Where[];
  places: ReadonlyMap<string, Place>;
  folders: ReadonlyMap<string, Folders>;
}

/** Folders of the result, with what comes into each and what of the choice lies there. */
function filedFolders({ going, candidates, places, folders }: Found): FiledFolder[] {
  const filed = new Map<string, FiledFolder>();
  const put = ({ placeId, folder }: Where, part: 'comes' | 'stays'): void => {
    const key = whereKey({ placeId, folder });
    const isNew = folders.get(placeId)!.isNew(folder);
    const one = filed.get(key) ?? {
      place: places.get(placeId)!.name,
      path: folder,
      isNew,
      comes: 0,
      stays: 0,
    };
    one[part] += 1;
    filed.set(key, one);
  };
  for (const { to, goes } of candidates) if (to !== null && !goes) put(to, 'stays');
  for (const { to } of going) put(to, 'comes');
  return [...filed.values()];
}

/** Every move by place and path, as far as they are listed; what stands in the way before all that does not. */
function listMoves({ going, places }: Found) {
  const whole = (placeId: string, { folder, name }: Move['before']): string =>
    joinPath(places.get(placeId)!.name, folder!, name);
  const lines: FiledMove[] = [];
  let [files, far] = [0, 0];
  const wrong = going.filter(({ line }) => line.problem !== null);
  const right = going.filter(({ line }) => line.problem === null);
  for (const { line, candidate, to, moves } of [...wrong, ...right]) {
    files += moves.length;
    const room = places.get(to.placeId)!.root.length + 1;
    for (const [at, { before, after }] of moves.entries()) {
      if (room + joinPath(after.folder!, after.name).length > LONGEST_PATH) far += 1;
      if (lines.length < MOST_LISTED)
        lines.push({
          id: line.id,
          before: whole(candidate.original.placeId, before),
          after: whole(to.placeId, after),
          problem: at === 0 ? line.problem : null,
          along: at > 0,
        });
    }
  }
  return { lines, files, far, problems: wrong.length };
}

/** All that a plan would do, in a few characters: move or copy, names, folders, and what is left empty. */
const fingerprintOfPlan = ({ copies, going, emptied }: Found): string =>
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
export function tellPlan(found: Found, notHere: number): Omit<FilingPreview, 'bytes' | 'free'> {
  const { going, candidates, emptied, places, folders } = found;
  const nameOf = (id: string): string => places.get(id)!.name;
  const idOf = new Map([...places].map(([id, { name }]) => [name, id]));
  const filed = filedFolders(found);
  const tree = treeOf(filed, (place, path) => folders.get(idOf.get(place)!)!.isNew(path));
  const among = new Set(
    going.flatMap(({ candidate, to }) => [candidate.original.placeId, to.placeId]),
  );
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
    fingerprint: fingerprintOfPlan(found),
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
