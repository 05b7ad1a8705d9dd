import type { Kysely } from 'kysely';
import { ArchiveError } from '#core/errors';
import type { Filed, filer } from '#core/naming/filing';
import type { RenameLine, RenameSubject } from '#core/naming/rename';
import type { Database } from '../db/schema';
import { refuseHandsOff } from '../files/door';
import type { LocatedFile } from '../files/located';
import { joinPath, splitPath } from '../files/paths';
import type { Place } from '../places/places';
import { foldersOfPlaces, joinDisk, whereKey, type Reader, type Where } from './ground';
import type { Move } from './moves';

/** An item that a filing plan is asked about: what of it would go, and where to. */
export interface Candidate {
  subject: RenameSubject;
  original: LocatedFile;
  /** Files that go where its original goes. */
  along: LocatedFile[];
  /** It is a folder of its own: its files keep their names and lie to each other as before. */
  isBundle: boolean;
  /** null: it stays where it is. */
  to: Where | null;
  /** It goes there: it lies elsewhere, or no copy of it lies there. */
  goes: boolean;
  /** Some piece was missing. */
  isPart: boolean;
}

/** Files of an item that go where its original goes: beside it, or below it in a bundle of its own. */
const isAlong = (original: LocatedFile, file: LocatedFile): boolean =>
  file.placeId === original.placeId &&
  (file.role === 'part'
    ? file.folder === original.folder || file.folder.startsWith(`${original.folder}/`)
    : file.folder === original.folder && !isCopy(file));
const isCopy = ({ role }: LocatedFile): boolean => role === 'second-copy' || role === 'beside-copy';

const isIn = ({ placeId, folder }: Where, file: LocatedFile): boolean =>
  placeId === file.placeId && folder === file.folder;

function candidateOf(
  subject: RenameSubject,
  [original, ...others]: [LocatedFile, ...LocatedFile[]],
  { path, isPart }: Filed,
  into: Where | null,
): Candidate {
  const along = others.filter((one) => one.state !== 'missing' && isAlong(original, one));
  // A bundle whose parts lie elsewhere cannot go as a whole, and in pieces its document would not find them.
  const isScattered = others.some((one) => one.role === 'part' && !isAlong(original, one));
  const isBundle = along.some(({ role }) => role === 'part') && original.folder !== '';
  const base = into ?? { placeId: original.placeId, folder: '' };
  const own = isBundle ? splitPath(original.folder).name : '';
  const to =
    path === null || isScattered
      ? null
      : { placeId: base.placeId, folder: joinPath(base.folder, path, own) };
  return { subject, original, along, isBundle, to, goes: false, isPart };
}

/** Files by their items, originals first. */
function byItem(files: readonly LocatedFile[]): Map<string, [LocatedFile, ...LocatedFile[]]> {
  const found = new Map<string, [LocatedFile, ...LocatedFile[]]>();
  for (const file of files) {
    const own = found.get(file.itemId);
    if (own) own.push(file);
    else found.set(file.itemId, [file]);
  }
  return found;
}

/** @throws ArchiveError not-allowed for hands-off places, not-found for those that are away or gone */
function refusePlaces(
  candidates: readonly Candidate[],
  { places, here, copies }: Pick<Ask, 'places' | 'here' | 'copies'>,
): void {
  // Whoever copies only reads where files lie.
  const ids = candidates.flatMap(({ original, to }) =>
    to === null ? [] : copies ? [to.placeId] : [original.placeId, to.placeId],
  );
  for (const id of new Set(ids)) {
    const place = places.get(id);
    if (!place) throw new ArchiveError('not-found', 'This place is not among the holdings.');
    refuseHandsOff({ place: place.name, handsOff: place.handsOff });
    if (!here.get(id)) throw new ArchiveError('not-found', `“${place.name}” is away.`);
  }
}

interface Ask {
  copies: boolean;
  subjects: readonly RenameSubject[];
  files: readonly LocatedFile[];
  file: ReturnType<typeof filer>;
  into: Where | null;
  places: ReadonlyMap<string, Place>;
  here: ReadonlyMap<string, boolean>;
  namesAt: Reader;
}

/** Where each item would go, folders that are there joined as they are spelled; and how many cannot, being not here. */
export async function findCandidates(db: Kysely<Database>, ask: Ask) {
  const { subjects, files, file, into, places, here, copies, namesAt } = ask;
  const own = byItem(files);
  const isHere = ({ id }: { id: string }): boolean => {
    const [original] = own.get(id)!;
    return original.state !== 'missing' && here.get(original.placeId) === true;
  };
  const candidates = subjects
    .filter(isHere)
    .map((subject) => candidateOf(subject, own.get(subject.id)!, file(subject), into));
  refusePlaces(candidates, ask);
  const folders = await foldersOfPlaces(db, [...places.keys()]);
  const wished = candidates.flatMap(({ to }) => to ?? []);
  await joinDisk(folders, namesAt, wished);
  for (const to of wished) to.folder = folders.get(to.placeId)!.join(to.folder);
  for (const one of candidates) {
    const { to, original } = one;
    const laid = (file: LocatedFile): boolean =>
      file.role === 'second-copy' && file.state !== 'missing' && isIn(to!, file);
    one.goes =
      to !== null && (copies ? !own.get(original.itemId)!.some(laid) : !isIn(to, original));
  }
  return { candidates, folders, notHere: subjects.length - candidates.length };
}

/** A candidate as whoever settles names sees it: in the folder it goes to, with what goes along. */
export function asSubject(candidate: Candidate): RenameSubject {
  const { subject, original, along, to } = candidate;
  const folder = whereKey(to!);
  const followers = along
    .filter(({ role }) => role !== 'part')
    .map(({ id, name }) => ({ id, name, folder }));
  return { ...subject, folder, followers, source: whereKey(original), moves: candidate.goes };
}

/** Moves, or copies, of an item whose original gets a name in a folder, the original first. */
export function movesOf(
  { original, along, isBundle, to }: Candidate,
  line: RenameLine,
  copies: boolean,
): Move[] {
  const names = new Map(line.followers.map(({ id, after }) => [id, after]));
  const isOther = copies || original.placeId !== to!.placeId;
  const spot = (placeId: string, folder: string, name: string) =>
    isOther ? { placeId, folder, name } : { folder, name };
  return [original, ...along].flatMap((file): Move[] => {
    const below = isBundle ? file.folder.slice(original.folder.length).replace(/^\//, '') : '';
    const named = file === original ? line.after : (names.get(file.id) ?? file.name);
    const before = spot(file.placeId, file.folder, file.name);
    const after = spot(to!.placeId, joinPath(to!.folder, below), isBundle ? file.name : named);
    const isSame = !isOther && before.folder === after.folder && before.name === after.name;
    return isSame ? [] : [{ fileId: file.id, itemId: file.itemId, before, after }];
  });
}
