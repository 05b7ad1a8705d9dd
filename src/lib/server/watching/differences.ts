import {
  comparePlace,
  type Comparison,
  type KnownFile,
  type SeenFile,
} from '#core/holdings/compare';
import { ownersOfSidecars } from '#core/holdings/belonging';
import { WASTEBASKET } from '#core/holdings/wastebasket';
import { isSidecar } from '#core/kinds/kinds';
import type { Database } from '../db/schema';
import { walkAll } from '../files/disk';
import { joinPath } from '../files/paths';
import type { House } from '../house/house';
import type { Progress } from '../jobs/attempt';
import type { Place } from '../places/places';

interface KnownHere extends KnownFile {
  itemId: string;
  role: Database['file']['role'];
}

/** What is to be settled between an archive and a disk. */
export interface Differences extends Comparison {
  /** New sidecars that stand beside a file of an item. */
  sidecars: { seen: SeenFile; itemId: string }[];
}

async function knownFiles(house: House, placeId: string): Promise<KnownHere[]> {
  const rows = await house.db
    .selectFrom('file as f')
    .innerJoin('folder as d', 'd.id', 'f.folderId')
    .select(['f.itemId', 'f.role'])
    .select(['f.id', 'f.name', 'f.size', 'f.modifiedNs', 'f.inode', 'f.contentHash', 'f.state'])
    .select('d.path as folder')
    .where('f.placeId', '=', placeId)
    // What lies in the wastebasket is looked at by nobody.
    .where('d.path', '<>', WASTEBASKET)
    .execute();
  return rows.map((row) => ({
    id: row.id,
    itemId: row.itemId,
    role: row.role,
    path: joinPath(row.folder, row.name),
    size: row.size,
    modified: row.modifiedNs,
    inode: row.inode,
    content: row.contentHash,
    isMissing: row.state === 'missing',
  }));
}

/** Files that work of ours has in hand: what they are just now is nobody's change. */
async function inHand(
  house: House,
  place: Place,
): Promise<{ ids: Set<string>; paths: Set<string>; items: Set<string> }> {
  const [steps, entries, planned, writing] = await Promise.all([
    house.db
      .selectFrom('operationStep')
      .select(['fileId', 'after'])
      .where('state', 'in', ['planned', 'doing'])
      .where('fileId', 'is not', null)
      .where('operationId', 'in', (query) =>
        query.selectFrom('operation').select('id').where('state', 'in', ['planned', 'doing']),
      )
      .execute(),
    house.db
      .selectFrom('accessionEntry as e')
      .innerJoin('accession as a', 'a.id', 'e.accessionId')
      .select(['e.folder', 'e.name'])
      .where('a.placeId', '=', place.id)
      .where('e.state', '=', 'placing')
      .execute(),
    house.db
      .selectFrom('accessionEntry as e')
      .innerJoin('accession as a', 'a.id', 'e.accessionId')
      .select(['a.root', 'e.sourcePath'])
      .where('a.placeId', '=', place.id)
      .where('a.mode', '=', 'in-place')
      .where('a.state', '<>', 'cancelled')
      .where('e.state', '=', 'planned')
      .execute(),
    house.db
      .selectFrom('job')
      .select('itemId')
      .where('task', '=', 'write-record')
      .where('state', 'in', ['waiting', 'running'])
      .execute(),
  ]);
  return {
    items: new Set(writing.map(({ itemId }) => itemId!)),
    ids: new Set(steps.map(({ fileId }) => fileId!)),
    paths: new Set([
      // A file on its way from another place is none of its own.
      ...steps
        .filter(({ after }) => after['placeId'] === place.id)
        .map(({ after }) => joinPath(String(after['folder']), String(after['name']))),
      ...entries.map(({ folder, name }) => joinPath(folder ?? '', name ?? '')),
      ...planned.map(({ root, sourcePath }) =>
        joinPath(root, sourcePath).slice(place.root.length + 1),
      ),
    ]),
  };
}

/** Files an accession in place could not take in: how large they were, and when that was, in nanoseconds. */
async function failedBefore(
  house: House,
  place: Place,
): Promise<Map<string, { size: number; at: bigint }>> {
  const rows = await house.db
    .selectFrom('accessionEntry as e')
    .innerJoin('accession as a', 'a.id', 'e.accessionId')
    .select(['a.root', 'e.sourcePath', 'e.size', 'a.createdAt'])
    .where('a.placeId', '=', place.id)
    .where('a.mode', '=', 'in-place')
    .where('e.state', '=', 'failed')
    .orderBy('a.createdAt')
    .execute();
  return new Map(
    rows.map(({ root, sourcePath, size, createdAt }) => [
      joinPath(root, sourcePath).slice(place.root.length + 1),
      { size, at: BigInt(createdAt.getTime()) * 1_000_000n },
    ]),
  );
}

/** Whose the new sidecars are. */
function sidecarsAmong(
  known: KnownHere[],
  gone: Set<string>,
  unknown: SeenFile[],
): Differences['sidecars'] {
  const beside = new Map(
    unknown.filter(({ path }) => isSidecar(path)).map((seen) => [seen.path, seen]),
  );
  if (beside.size === 0) return [];
  const originals = known.filter(({ role, isMissing }) => role === 'original' && !isMissing);
  // One that is gone leaves its place to another.
  const taken = known
    .filter(({ id, role }) => role === 'sidecar' && !gone.has(id))
    .map(({ itemId }) => itemId);
  const owners = ownersOfSidecars(originals, new Set(taken), [...beside.keys()]);
  return [...owners].map(([path, itemId]) => ({ seen: beside.get(path)!, itemId }));
}

/** Compare a place with its disk once. */
export async function differencesOf(
  house: House,
  place: Place,
  progress: Progress,
): Promise<Differences> {
  const { createdAt } = await house.db
    .selectFrom('place')
    .select('createdAt')
    .where('id', '=', place.id)
    .executeTakeFirstOrThrow();
  const since = BigInt(createdAt.getTime()) * 1_000_000n;
  const changed = new Map<string, bigint>();
  const known = await knownFiles(house, place.id);
  const tell = async (count: number): Promise<void> => {
    await progress.report(Math.min(count, known.length), known.length, 'files');
  };
  const { files, unread } = await walkAll(place.root, tell);
  const seen = files.map((file): SeenFile => {
    changed.set(file.path, file.changedNs);
    return {
      path: file.path,
      size: file.size,
      modified: String(file.modifiedNs),
      inode: String(file.inode),
    };
  });
  const busy = await inHand(house, place);
  const found = comparePlace(known, seen);
  // What lies in a folder that cannot be read is not gone.
  const closed = new Set(unread);
  const isHidden = ({ path }: KnownFile): boolean => {
    for (let at = path.lastIndexOf('/'); at > 0; at = path.lastIndexOf('/', at - 1))
      if (closed.has(path.slice(0, at))) return true;
    return false;
  };
  const isFree = ({ known: { id } }: { known: KnownFile }): boolean => !busy.ids.has(id);
  const gone = new Set(found.gone.map(({ id }) => id));
  const failed = await failedBefore(house, place);
  // What lay there before the place was ours and was not brought in was left out on purpose; what could not be
  // read then is not tried over and over, but once it changed.
  const free = found.unknown.filter(({ path, size }) => {
    const at = changed.get(path)!;
    const before = failed.get(path);
    const isNew = !before || at >= before.at || size !== before.size;
    return !busy.paths.has(path) && at >= since && isNew;
  });
  return {
    moved: found.moved.filter(isFree),
    touched: found.touched.filter(isFree),
    back: found.back.filter(isFree),
    gone: found.gone.filter((file) => !busy.ids.has(file.id) && !isHidden(file)),
    unknown: free,
    sidecars: sidecarsAmong(known, gone, free).filter(({ itemId }) => !busy.items.has(itemId)),
  };
}

/** Only what was the same in both looks. */
export function lasting(first: Differences, second: Differences): Differences {
  const pairs = (kind: 'moved' | 'touched' | 'back') => {
    const before = new Map(first[kind].map((one) => [one.known.id, JSON.stringify(one.seen)]));
    return second[kind].filter((one) => before.get(one.known.id) === JSON.stringify(one.seen));
  };
  const gone = new Set(first.gone.map(({ id }) => id));
  const unknown = new Set(first.unknown.map((file) => JSON.stringify(file)));
  const sidecars = new Set(first.sidecars.map((one) => JSON.stringify(one)));
  return {
    moved: pairs('moved'),
    touched: pairs('touched'),
    back: pairs('back'),
    gone: second.gone.filter(({ id }) => gone.has(id)),
    unknown: second.unknown.filter((file) => unknown.has(JSON.stringify(file))),
    sidecars: second.sidecars.filter((one) => sidecars.has(JSON.stringify(one))),
  };
}

export const countOf = ({ moved, touched, back, gone, unknown, sidecars }: Differences): number =>
  moved.length +
  touched.length +
  back.length +
  gone.filter(({ isMissing }) => !isMissing).length +
  unknown.filter(({ path }) => !isSidecar(path)).length +
  sidecars.length;
