import type { Kysely } from 'kysely';
import { ArchiveError } from '#core/errors';
import type { Filed, filer } from '#core/naming/filing';
import type { RenameLine, RenameSubject } from '#core/naming/rename';
import type { Database } from '../db/schema';
import { refuseHandsOff } from '../files/door';
import type { NamedFile } from '../files/located';
import { joinPath, splitPath } from '../files/paths';
import type { FolderOfPlace } from '../places/folderRows';
import type { Place } from '../places/places';
import { foldersOfPlaces, joinDisk, type Reader, type Where, type Wheres } from './ground';
import type { Move } from './moves';

/** An item that a filing plan is asked about: what of it would go, and where to. */
export interface Candidate {
  subject: RenameSubject;
  original: NamedFile;
  /** Where its original lies. */
  from: Where;
  /** Files that go where its original goes. */
  along: NamedFile[];
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
const isAlong = (original: NamedFile, file: NamedFile): boolean =>
  file.placeId === original.placeId &&
  (file.role === 'part'
    ? file.folder === original.folder || file.folder.startsWith(`${original.folder}/`)
    : file.folder === original.folder && !isCopy(file));
const isCopy = ({ role }: NamedFile): boolean => role === 'second-copy' || role === 'beside-copy';

/** Of most items nothing goes along. */
const NONE: NamedFile[] = [];

function candidateOf(
  subject: RenameSubject,
  files: readonly [NamedFile, ...NamedFile[]],
  { path, isPart }: Filed,
  { into, wheres }: Pick<Ask, 'into' | 'wheres'>,
): Candidate {
  const [original] = files;
  const others = files.length > 1 ? files.slice(1) : NONE;
  const along = others.filter((one) => one.state !== 'missing' && isAlong(original, one));
  // A bundle whose parts lie elsewhere cannot go as a whole, and in pieces its document would not find them.
  const isScattered = others.some((one) => one.role === 'part' && !isAlong(original, one));
  const isBundle = along.some(({ role }) => role === 'part') && original.folder !== '';
  const own = isBundle ? splitPath(original.folder).name : '';
  const to =
    path === null || isScattered
      ? null
      : wheres.at(into?.placeId ?? original.placeId, joinPath(into?.path ?? '', path, own));
  return { subject, original, from: wheres.of(original), along, isBundle, to, goes: false, isPart };
}

/** Files by their items, originals first. */
function byItem(files: readonly NamedFile[]): Map<string, [NamedFile, ...NamedFile[]]> {
  const found = new Map<string, [NamedFile, ...NamedFile[]]>();
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
  const ids = new Set<string>();
  for (const { from, to } of candidates)
    if (to !== null) {
      ids.add(to.placeId);
      // Whoever copies only reads where files lie.
      if (!copies) ids.add(from.placeId);
    }
  for (const id of ids) {
    const place = places.get(id);
    if (!place) throw new ArchiveError('not-found', 'This place is not among the holdings.');
    refuseHandsOff({ place: place.name, handsOff: place.handsOff });
    if (!here.get(id)) throw new ArchiveError('not-found', `“${place.name}” is away.`);
  }
}

interface Ask {
  copies: boolean;
  subjects: readonly RenameSubject[];
  files: readonly NamedFile[];
  file: ReturnType<typeof filer>;
  into: FolderOfPlace | null;
  wheres: Wheres;
  places: ReadonlyMap<string, Place>;
  here: ReadonlyMap<string, boolean>;
  namesAt: Reader;
}

/** Where each item would go, folders that are there joined as they are spelled; and how many cannot, being not here. */
export async function findCandidates(db: Kysely<Database>, ask: Ask) {
  const { subjects, files, file, wheres, places, here, copies, namesAt } = ask;
  const own = byItem(files);
  const candidates: Candidate[] = [];
  for (const subject of subjects) {
    const its = own.get(subject.id)!;
    const [original] = its;
    if (original.state !== 'missing' && here.get(original.placeId) === true)
      candidates.push(candidateOf(subject, its, file(subject), ask));
  }
  refusePlaces(candidates, ask);
  const folders = await foldersOfPlaces(db, [...places.keys()]);
  const wished = new Set<Where>();
  for (const { to } of candidates) if (to !== null) wished.add(to);
  await joinDisk(folders, namesAt, wheres, wished);
  const joined = new Map<Where, Where>();
  for (const where of wished) {
    const { placeId, folder } = where;
    joined.set(where, wheres.at(placeId, folders.get(placeId)!.join(folder)));
  }
  for (const one of candidates) {
    if (one.to === null) continue;
    const to = (one.to = joined.get(one.to)!);
    const isLaid = (file: NamedFile): boolean =>
      file.role === 'second-copy' && file.state !== 'missing' && wheres.of(file) === to;
    one.goes = copies ? !own.get(one.subject.id)!.some(isLaid) : one.from !== to;
  }
  return { candidates, folders, notHere: subjects.length - candidates.length };
}

/** A candidate as whoever settles names sees it: in the folder it goes to, with what goes along. */
export function asSubject(candidate: Candidate): RenameSubject {
  const { subject, from, along, to } = candidate;
  const folder = to!.key;
  const followers = along
    .filter(({ role }) => role !== 'part')
    .map(({ id, name }) => ({ id, name, folder }));
  return { ...subject, folder, followers, source: from.key, moves: candidate.goes };
}

/** Moves, or copies, of an item whose original gets a name in a folder, the original first. */
export function movesOf(
  { original, along, isBundle, to }: Candidate,
  line: RenameLine,
  copies: boolean,
): Move[] {
  const isOther = copies || original.placeId !== to!.placeId;
  const spot = (placeId: string, folder: string, name: string) =>
    isOther ? { placeId, folder, name } : { folder, name };
  const namedOf = (file: NamedFile): string =>
    file === original
      ? line.after
      : (line.followers.find(({ id }) => id === file.id)?.after ?? file.name);
  return [original, ...along].flatMap((file): Move[] => {
    const below = isBundle ? file.folder.slice(original.folder.length).replace(/^\//, '') : '';
    const named = namedOf(file);
    const before = spot(file.placeId, file.folder, file.name);
    const after = spot(to!.placeId, joinPath(to!.folder, below), isBundle ? file.name : named);
    const isSame = !isOther && before.folder === after.folder && before.name === after.name;
    return isSame ? [] : [{ fileId: file.id, itemId: file.itemId, before, after }];
  });
}
