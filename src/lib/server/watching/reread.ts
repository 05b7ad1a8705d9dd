import type { Transaction } from 'kysely';
import pMap from 'p-map';
import type { Database } from '../db/schema';
import type { FileFacts } from '#core/intake/facts';
import { factsOf } from '../files/disk';
import { hashEssence, hashFile, type ContentHash } from '../files/hash';
import { filesOf, type LocatedFile } from '../files/located';
import { joinPath } from '../files/paths';
import type { House } from '../house/house';
import { readFacts } from '../metadata/facts';
import { markersOf } from '../jobs/footage';
import { enqueue } from '../jobs/queue';
import { meetFile, whileUnwritten } from '../records/meet';
import { readRecords } from '../records/records';
import { lockRecords } from '../records/store';
import { follow, tellOf, type FoundFile } from './follow';
import type { Place } from '../places/places';

type Store = (db: Transaction<Database>, facts: FileFacts, original: LocatedFile) => Promise<void>;

/** Take what an item's file and its sidecar say into its record. */
export const learnAgain = (
  house: House,
  itemId: string,
  store: Store,
  isNew = false,
): Promise<void> =>
  whileUnwritten(house, itemId, () => learnUnwritten(house, itemId, store, isNew));

async function learnUnwritten(
  house: House,
  itemId: string,
  store: Store,
  isNew = false,
): Promise<void> {
  const files = await filesOf(house.db, [itemId]);
  const original = files.find(({ role }) => role === 'original')!;
  const sidecar = files.find(({ role }) => role === 'sidecar')?.path ?? null;
  const facts = await readFacts(
    original.path,
    sidecar && (await factsOf(sidecar))?.isFile() ? sidecar : null,
  );
  await house.db.transaction().execute(async (db) => {
    // What a person sets at this moment waits for us, or we see it: nothing is written over it.
    await lockRecords(db, [itemId]);
    const [record] = await readRecords(db, [itemId]);
    await store(db, facts, original);
    // A file that cannot be read says nothing; that it said something once stays.
    if (record && facts.says !== 'nothing') await meetFile(db, record, original, facts, isNew);
    await tellOf(db, [original.id]);
    if (original.kind === 'footage' || original.kind === 'sound')
      await enqueue(db, [markersOf(itemId)]);
  });
}

/** Files read at once, and files told of at once. */
const AT_ONCE = 4;
const BATCH = 500;

/**
 * Files that are no longer what was noted are read: most were only copied or touched, some were saved anew.
 * @param report hears how many more are settled
 */
export async function readTouched(
  house: House,
  place: Place,
  touched: FoundFile[],
  report: (more: number) => Promise<void>,
): Promise<void> {
  for (let at = 0; at < touched.length; at += BATCH) {
    const batch = touched.slice(at, at + BATCH);
    const read = await pMap(
      batch,
      async ({ seen }) => hashFile(joinPath(place.root, seen.path)).catch(() => null),
      { concurrency: AT_ONCE },
    );
    // One that vanished or cannot be read just now is looked at again with the next comparison.
    const there = batch.flatMap((one, index) => {
      const contentHash = read[index];
      return contentHash ? [{ ...one, contentHash }] : [];
    });
    const isSame = ({ contentHash, known }: (typeof there)[number]) =>
      contentHash === known.content;
    // Rows follow last: until then the difference stands, and a kill loses nothing.
    const settled: FoundFile[] = [];
    for (const one of there)
      if (isSame(one) || (await learnSaved(house, place, one))) settled.push(one);
    await follow(house, place, settled);
    await report(batch.length);
  }
}

interface Saved extends FoundFile {
  contentHash: ContentHash;
}

/** Another program saved the file: what it says now is read. @returns whether it is still the one that was seen */
async function learnSaved(house: House, place: Place, saved: Saved): Promise<boolean> {
  const { itemId } = await house.db
    .selectFrom('file')
    .select('itemId')
    .where('id', '=', saved.known.id)
    .executeTakeFirstOrThrow();
  return whileUnwritten(house, itemId, async () => {
    const { seen } = saved;
    const now = await factsOf(joinPath(place.root, seen.path));
    const isSeen =
      now !== null &&
      Number(now.size) === seen.size &&
      String(now.mtimeNs) === String(seen.modified) &&
      String(now.ino) === String(seen.inode);
    // Written meanwhile, by us or by others: the next comparison sees it.
    if (isSeen) await learnUnchanged(house, place, saved);
    return isSeen;
  });
}

async function learnUnchanged(
  house: House,
  place: Place,
  { known, seen, contentHash }: Saved,
): Promise<void> {
  const { itemId, role, mediaType, technical } = await house.db
    .selectFrom('file as f')
    .innerJoin('item as i', 'i.id', 'f.itemId')
    .select(['f.itemId', 'f.role', 'i.mediaType', 'i.technical'])
    .where('f.id', '=', known.id)
    .executeTakeFirstOrThrow();
  const note = (
    db: Transaction<Database>,
    more: { essenceHash?: string | null; pictureKey?: string },
  ) =>
    db
      .updateTable('file')
      .set({ contentHash, verifiedAt: new Date(), ...more })
      .where('id', '=', known.id)
      .execute();
  if (role === 'sidecar')
    return learnUnwritten(house, itemId, async (db) => {
      await note(db, {});
    });
  if (role !== 'original') {
    await house.db.transaction().execute((db) => note(db, { pictureKey: contentHash }));
    return;
  }
  const essenceHash = await hashEssence(joinPath(place.root, seen.path), mediaType);
  await learnUnwritten(house, itemId, async (db, facts) => {
    const pictureKey = `${essenceHash ?? contentHash}-${facts.orientation}`;
    await note(db, { essenceHash, pictureKey });
    const { width, height } = facts;
    await db
      .updateTable('item')
      .set({ technical: JSON.stringify({ ...technical, ...facts.technical }), width, height })
      .where('id', '=', itemId)
      .execute();
    await enqueue(db, [
      { task: 'pictures', title: 'Making pictures anew', subject: itemId, itemId },
    ]);
  });
}
