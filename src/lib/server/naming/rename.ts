import type { Kysely } from 'kysely';
import { ArchiveError } from '#core/errors';
import { valuesNeeded } from '#core/naming/fill';
import { fingerprintOf } from '#core/naming/fingerprint';
import { choicesIn, formatPattern, parsePattern } from '#core/naming/grammar';
import type { ExtensionRule } from '#core/naming/names';
import { underKey } from '#core/naming/piece';
import { AS_GIVEN, inCountingOrder, type CountingOrder } from '#core/naming/order';
import {
  previewRename,
  type ClashRule,
  type RenameLine,
  type RenameSubject,
} from '#core/naming/rename';
import { heldIn, packSubjects, type NamingFolder, type NamingMaterial } from '#core/naming/wire';
import type { Viewer } from '#core/sight/viewer';
import { MOST_PICKED } from '#core/query/picked';
import { counted } from '#core/text/quantities';
import type { Database } from '../db/schema';
import { refuseHandsOff } from '../files/door';
import type { NamedFile } from '../files/located';
import { allPlaces } from '../places/places';
import { startMoves, type Move } from './moves';
import { keepStanding, readStanding, type Standing } from './counters';
import { foldersOf, subjectsOf } from './subjects';
import { fileFor } from '../sight/files';
import { filedOf, seenId, type SeenIds } from '../sight/seen';

type Db = Kysely<Database>;

export interface RenameWish {
  viewer: Viewer;
  itemIds: SeenIds;
  pattern: string;
  clash: ClashRule;
  extension: ExtensionRule;
  order?: CountingOrder | undefined;
  /** The moment that counts as today, ms. */
  now?: number;
}

/** All that a preview is reckoned from, for as long as nobody changes any of it. */
interface Material {
  subjects: RenameSubject[];
  folders: NamingFolder[];
  standing: Standing;
  files: NamedFile[];
}

/** @throws ArchiveError value-refused */
export function refuseTooMany(itemIds: readonly string[]): void {
  if (itemIds.length > MOST_PICKED)
    throw new ArchiveError('value-refused', `At most ${MOST_PICKED} items at once.`);
}

/** Zone of the house, in which instants are told where a pattern names none. */
export const houseZone = (): string => new Intl.DateTimeFormat().resolvedOptions().timeZone;

async function gather(
  db: Db,
  viewer: Viewer,
  itemIds: SeenIds,
  pattern: string,
): Promise<Material> {
  refuseTooMany(itemIds);
  const pieces = parsePattern(pattern);
  const places = new Map((await allPlaces(db)).map((place) => [place.id, place]));
  const { subjects, files: all } = await subjectsOf(db, viewer, await filedOf(db, itemIds), {
    ...{ pieces, places },
  });
  const files = all.filter(({ role }) => role !== 'part');
  return {
    subjects,
    folders: await foldersOf(db, files),
    standing: await readStanding(db, pieces),
    files,
  };
}

/** Places of some folders that other programs look in, by name. */
async function sharedAmong(db: Db, folders: readonly NamingFolder[]): Promise<string[]> {
  const names = new Set(folders.map(({ place }) => place));
  return (await allPlaces(db)).flatMap(({ name, shared }) =>
    shared && names.has(name) ? [name] : [],
  );
}

/** @throws ArchiveError pattern-unclear, value-refused for too many */
export async function namingMaterial(
  db: Db,
  viewer: Viewer,
  wish: { itemIds: SeenIds; pattern: string },
  now: number,
): Promise<NamingMaterial> {
  const { subjects, folders, standing } = await gather(db, viewer, wish.itemIds, wish.pattern);
  const pieces = parsePattern(wish.pattern);
  const { fields, under } = valuesNeeded(pieces);
  const withHashes = choicesIn(pieces).some(
    ({ source }) => source.of === 'word' && source.word === 'hash',
  );
  return {
    columns: packSubjects(subjects, folders, [...fields, ...under.map(underKey)], withHashes),
    counters: standing.stand,
    now,
    zone: houseZone(),
    shared: await sharedAmong(db, folders),
  };
}

interface Prepared {
  lines: RenameLine[];
  files: NamedFile[];
  standing: Standing;
}

async function prepare(db: Db, wish: RenameWish): Promise<Prepared> {
  const { viewer, itemIds, pattern } = wish;
  const { subjects, folders, standing, files } = await gather(db, viewer, itemIds, pattern);
  const lines = previewRename(
    pattern,
    inCountingOrder(subjects, wish.order ?? AS_GIVEN),
    heldIn(folders),
    wish,
    { counters: standing.counters, now: wish.now ?? Date.now(), zone: houseZone() },
  );
  return { lines, files, standing };
}

/** Every old and new name, and what stands in the way; nothing is changed. */
export async function renamePreview(
  db: Db,
  wish: RenameWish,
): Promise<{ lines: RenameLine[]; fingerprint: string; problems: number; unchanged: number }> {
  const { lines } = await prepare(db, wish);
  return {
    lines,
    fingerprint: fingerprintOf(lines),
    problems: lines.filter((line) => line.problem !== null).length,
    unchanged: lines.filter((line) => line.before === line.after).length,
  };
}

/**
 * Rename by a pattern: noted in the ledger first, carried out by a job, undone by the ledger.
 * Sidecars follow their files.
 * @param fingerprint of the preview that was seen: what is done is what was shown
 * @returns the operation
 * @throws ArchiveError name-refused where a name cannot be given, not-allowed for hands-off places, conflict where
 * something changed since the preview
 */
export async function startRename(
  db: Db,
  actorId: string | null,
  wish: RenameWish & { fingerprint?: string },
): Promise<string> {
  const { lines, files, standing } = await prepare(db, wish);
  if (wish.fingerprint !== undefined && wish.fingerprint !== fingerprintOf(lines))
    throw new ArchiveError(
      'conflict',
      'Files or records were changed since these names were shown; look at them again.',
    );
  const wrong = lines.find((line) => line.problem !== null);
  if (wrong)
    throw new ArchiveError('name-refused', `“${wrong.after}”: ${wrong.problem}.`, {
      name: wrong.after,
    });
  const changed = lines.filter((line) => line.before !== line.after);
  if (changed.length === 0)
    throw new ArchiveError('name-refused', 'All these files have these names already.');
  const names = new Map(
    changed.flatMap(({ id, after, followers }): [string, string][] => [
      [`original of ${id}`, after],
      ...followers.map((one): [string, string] => [one.id, one.after]),
    ]),
  );
  const moves = files.flatMap((file): Move[] => {
    const name = names.get(file.role === 'original' ? `original of ${file.itemId}` : file.id);
    if (name === undefined || name === file.name) return [];
    refuseHandsOff(file);
    const { id: fileId, itemId } = file;
    return [{ fileId, itemId, before: { name: file.name }, after: { name } }];
  });
  const what = counted(changed.length, 'item');
  return startMoves(db, {
    kind: 'rename',
    actorId,
    moves,
    title: `Renaming ${what}`,
    summary: `Renamed ${what} by “${wish.pattern}”`,
    also: (transaction) => keepStanding(transaction, parsePattern(wish.pattern), standing),
  });
}

/**
 * Give one file another whole name, extension included; what belongs to it goes along.
 * @param before what it was called when it was looked at
 * @returns the operation
 * @throws ArchiveError not-found, conflict where it is called otherwise by now, name-refused, not-allowed
 */
export async function renameOne(
  db: Db,
  actorId: string | null,
  {
    itemId,
    name,
    before,
    viewer,
  }: { itemId: string; name: string; before: string; viewer: Viewer },
): Promise<string> {
  if (name.trim() === '') throw new ArchiveError('name-refused', 'A file needs a name.');
  const [file, itemIds] = [
    await fileFor(db, viewer, itemId, 'take'),
    await seenId(db, viewer, itemId),
  ];
  if (file.name !== before)
    throw new ArchiveError('conflict', `It is called “${file.name}” by now; look at it again.`);
  return startRename(db, actorId, {
    itemIds,
    viewer,
    clash: 'refuse',
    extension: 'pattern',
    pattern: formatPattern([{ text: name.normalize('NFC') }]),
  });
}
