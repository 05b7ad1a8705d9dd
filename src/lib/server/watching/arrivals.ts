import pMap from 'p-map';
import { sql, type Transaction } from 'kysely';
import { bundleAround } from '#core/holdings/belonging';
import {
  matchByContent,
  worthReading,
  type KnownFile,
  type SeenFile,
} from '#core/holdings/compare';
import { isSidecar } from '#core/kinds/kinds';
import type { Database } from '../db/schema';
import { factsOf } from '../files/disk';
import { hashFile } from '../files/hash';
import { joinPath, splitPath } from '../files/paths';
import { insertFile, isKnownName, replaceFile, type NewFile } from '../files/rows';
import type { House } from '../house/house';
import { startAccession } from '../intake/plan/accession';
import { bundleFolders } from '../intake/run/parts';
import { enqueue } from '../jobs/queue';
import type { Differences } from './differences';
import { follow, markMissing, tellOf } from './follow';
import { learnAgain } from './reread';
import { ensureFolder } from '../places/folderRows';
import type { Place } from '../places/places';

/** Files read at once. */
const AT_ONCE = 4;

/** Files of other places that are not where they were, and may have come here. */
async function goneElsewhere(
  house: House,
  placeId: string,
  unknown: SeenFile[],
): Promise<KnownFile[]> {
  if (unknown.length === 0) return [];
  const rows = await house.db
    .selectFrom('file as f')
    .innerJoin('folder as d', 'd.id', 'f.folderId')
    .innerJoin('place as p', 'p.id', 'f.placeId')
    .select(['f.id', 'f.name', 'f.size', 'f.contentHash', 'f.state', 'd.path as folder', 'p.root'])
    .where('f.placeId', '<>', placeId)
    .where('p.here', '=', true)
    .where(
      'f.size',
      '=',
      sql<number>`any(${[...new Set(unknown.map(({ size }) => size))]}::bigint[])`,
    )
    .execute();
  const gone: KnownFile[] = [];
  for (const { id, name, size, contentHash, state, folder, root } of rows) {
    const isThere = state !== 'missing' && (await factsOf(joinPath(root, folder, name))) !== null;
    const nowhere = { path: '', modified: '', inode: '', isMissing: true };
    if (!isThere) gone.push({ id, size, content: contentHash, ...nowhere });
  }
  return gone;
}

/** One file that cannot be read must not keep the others from being settled. */
const hashIfReadable = (path: string): Promise<string | null> => hashFile(path).catch(() => null);

/** An item has one sidecar: the row of one that is missing is there for the next. */
async function missingSidecar(db: Transaction<Database>, itemId: string): Promise<string | null> {
  const row = await db
    .selectFrom('file')
    .select('id')
    .where('itemId', '=', itemId)
    .where('role', '=', 'sidecar')
    .where('state', '=', 'missing')
    .executeTakeFirst();
  return row?.id ?? null;
}

/** A new file that belongs to an item already: a row of its own, in its folder. */
async function tie(
  house: House,
  place: Place,
  seen: SeenFile,
  belongs: Pick<NewFile, 'itemId' | 'role'>,
): Promise<boolean> {
  const path = joinPath(place.root, seen.path);
  const facts = await factsOf(path);
  if (!facts) return false;
  const contentHash = await hashIfReadable(path);
  if (contentHash === null) return false;
  const { folder, name } = splitPath(seen.path);
  return house.db.transaction().execute(async (db) => {
    const folderId = await ensureFolder(db, place.id, folder);
    // A sidecar of our own making may have been noted meanwhile.
    if (await isKnownName(db, folderId, name)) return false;
    const file = { ...belongs, placeId: place.id, folderId, name, contentHash };
    const lost = belongs.role === 'sidecar' && (await missingSidecar(db, belongs.itemId));
    await (lost ? replaceFile(db, lost, file, facts) : insertFile(db, file, facts));
    return true;
  });
}

/** New sidecars join their items, which learn what they say. */
async function tieSidecars(
  house: House,
  place: Place,
  sidecars: Differences['sidecars'],
): Promise<void> {
  for (const { seen, itemId } of sidecars)
    if (await tie(house, place, seen, { itemId, role: 'sidecar' }))
      await learnAgain(house, itemId, () => Promise.resolve(), true);
}

/** New files in the folder of a bundle become parts of it. @returns those that lie in no bundle */
async function tieParts(house: House, place: Place, added: SeenFile[]): Promise<SeenFile[]> {
  if (added.length === 0) return [];
  const bundles = await bundleFolders(house.db, place.id);
  const grown = new Set<string>();
  const rest: SeenFile[] = [];
  for (const seen of added) {
    const itemId = bundleAround(bundles, seen.path);
    if (itemId === undefined) rest.push(seen);
    else if (await tie(house, place, seen, { itemId, role: 'part' })) grown.add(itemId);
  }
  const ids = [...grown];
  if (ids.length === 0) return rest;
  await house.db.transaction().execute(async (db) => {
    const files = await db.selectFrom('file').select('id').where('itemId', 'in', ids).execute();
    await tellOf(
      db,
      files.map(({ id }) => id),
    );
    const title = 'Making pictures anew';
    await enqueue(
      db,
      ids.map((itemId) => ({ task: 'pictures', title, subject: itemId, itemId })),
    );
  });
  return rest;
}

/** Find the gone among the unknown by content; mark the rest missing; take what is new into the catalogue. */
export async function settleArrivals(
  house: House,
  place: Place,
  { gone, unknown, sidecars }: Differences,
): Promise<void> {
  const sought = [...gone, ...(await goneElsewhere(house, place.id, unknown))];
  const read = await pMap(
    worthReading(sought, unknown),
    async (seen) => ({ seen, content: await hashIfReadable(joinPath(place.root, seen.path)) }),
    { concurrency: AT_ONCE },
  );
  const again = matchByContent(
    sought,
    read.flatMap(({ seen, content }) => (content === null ? [] : [{ seen, content }])),
  );
  await follow(house, place, again);
  const found = new Set(again.map(({ known }) => known.id));
  await markMissing(
    house,
    gone.filter(({ id, isMissing }) => !found.has(id) && !isMissing),
  );
  const taken = new Set(again.map(({ seen }) => seen.path));
  await tieSidecars(
    house,
    place,
    sidecars.filter(({ seen }) => !taken.has(seen.path)),
  );
  const added = await tieParts(
    house,
    place,
    unknown.filter(({ path }) => !taken.has(path) && !isSidecar(path)),
  );
  if (added.length > 0)
    await startAccession(house, {
      title: `Found in ${place.name}`,
      source: { kind: 'folder', name: place.root },
      root: place.root,
      mode: 'in-place',
      place,
      plan: { filing: '', naming: '{name}' },
      files: added.map(({ path, size }) => ({ path, size })),
      actorId: null,
    });
}
