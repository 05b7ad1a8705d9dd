import type { Transaction } from 'kysely';
import {
  comparePlace,
  matchByContent,
  worthReading,
  type Comparison,
  type KnownFile,
  type SeenFile,
} from '#core/holdings/compare';
import { isSidecar } from '#core/kinds/kinds';
import { FIELD_KEYS } from '#core/records/fields';
import type { Database } from '../db/schema';
import { factsOf, walk } from '../files/disk';
import { hashEssence, hashFile } from '../files/hash';
import { joinPath, splitPath } from '../files/paths';
import type { House } from '../house/house';
import { enqueue } from '../jobs/queue';
import type { JobRow, Progress } from '../jobs/run';
import { notify } from '../live/notify';
import { startAccession } from '../intake/accession';
import { readFacts } from '../intake/facts';
import { differences, readRecords, refreshWords, storeValues } from '../records/records';
import { rootIsHere, setHere } from './here';
import { ensureFolder, placeById, type Place } from './places';

/** A difference has to last this long: our own work changes files a moment before their rows. */
const LASTS_MS = 1500;

async function knownFiles(house: House, placeId: string): Promise<KnownFile[]> {
  const rows = await house.db
    .selectFrom('file as f')
    .innerJoin('folder as d', 'd.id', 'f.folderId')
    .select(['f.id', 'f.name', 'f.size', 'f.modifiedNs', 'f.inode', 'f.contentHash', 'f.state'])
    .select('d.path as folder')
    .where('f.placeId', '=', placeId)
    .execute();
  return rows.map((row) => ({
    id: row.id,
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
): Promise<{ ids: Set<string>; paths: Set<string> }> {
  const [steps, entries, planned] = await Promise.all([
    house.db
      .selectFrom('operationStep')
      .select('fileId')
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
  ]);
  return {
    ids: new Set(steps.map(({ fileId }) => fileId!)),
    paths: new Set([
      ...entries.map(({ folder, name }) => joinPath(folder ?? '', name ?? '')),
      ...planned.map(({ root, sourcePath }) =>
        joinPath(root, sourcePath).slice(place.root.length + 1),
      ),
    ]),
  };
}

async function differencesOf(house: House, place: Place, progress: Progress): Promise<Comparison> {
  const { createdAt } = await house.db
    .selectFrom('place')
    .select('createdAt')
    .where('id', '=', place.id)
    .executeTakeFirstOrThrow();
  const since = BigInt(createdAt.getTime()) * 1_000_000n;
  const old = new Set<string>();
  const known = await knownFiles(house, place.id);
  const tell = async (count: number): Promise<void> => {
    await progress.report(Math.min(count, known.length), known.length, 'files');
  };
  const seen = (await walk(place.root, tell)).map((file): SeenFile => {
    if (file.changedNs < since) old.add(file.path);
    return {
      path: file.path,
      size: file.size,
      modified: String(file.modifiedNs),
      inode: String(file.inode),
    };
  });
  const busy = await inHand(house, place);
  const found = comparePlace(known, seen);
  const isFree = ({ known: { id } }: { known: KnownFile }): boolean => !busy.ids.has(id);
  return {
    moved: found.moved.filter(isFree),
    touched: found.touched.filter(isFree),
    back: found.back.filter(isFree),
    gone: found.gone.filter(({ id }) => !busy.ids.has(id)),
    // What lay there before the place was ours and was not brought in was left out on purpose.
    unknown: found.unknown.filter(({ path }) => !busy.paths.has(path) && !old.has(path)),
  };
}

/** Only what was the same in both looks. */
function lasting(first: Comparison, second: Comparison): Comparison {
  const pairs = (kind: 'moved' | 'touched' | 'back') => {
    const before = new Map(first[kind].map((one) => [one.known.id, JSON.stringify(one.seen)]));
    return second[kind].filter((one) => before.get(one.known.id) === JSON.stringify(one.seen));
  };
  const gone = new Set(first.gone.map(({ id }) => id));
  const unknown = new Set(first.unknown.map((file) => JSON.stringify(file)));
  return {
    moved: pairs('moved'),
    touched: pairs('touched'),
    back: pairs('back'),
    gone: second.gone.filter(({ id }) => gone.has(id)),
    unknown: second.unknown.filter((file) => unknown.has(JSON.stringify(file))),
  };
}

const countOf = ({ moved, touched, back, gone, unknown }: Comparison): number =>
  moved.length +
  touched.length +
  back.length +
  gone.filter(({ isMissing }) => !isMissing).length +
  unknown.filter(({ path }) => !isSidecar(path)).length;

type Found = { known: KnownFile; seen: SeenFile };

/** Rows follow their files, names that traded places too: all of them in one transaction. */
async function follow(house: House, place: Place, found: Found[]): Promise<void> {
  if (found.length === 0) return;
  await house.db.transaction().execute(async (db) => {
    for (const { known, seen } of found) {
      const { folder, name } = splitPath(seen.path);
      await db
        .updateTable('file')
        .set({
          placeId: place.id,
          folderId: await ensureFolder(db, place.id, folder),
          name,
          state: 'present',
          missingSince: null,
          size: seen.size,
          modifiedNs: seen.modified,
          inode: seen.inode,
        })
        .where('id', '=', known.id)
        .execute();
    }
    await tellOf(
      db,
      found.map(({ known }) => known.id),
    );
  });
}

/** Items of these files look different now: search, windows and what changed since. */
async function tellOf(db: Transaction<Database>, fileIds: string[]): Promise<void> {
  const rows = await db
    .selectFrom('file')
    .select('itemId')
    .distinct()
    .where('id', 'in', fileIds)
    .execute();
  const ids = rows.map(({ itemId }) => itemId);
  await refreshWords(db, ids);
  await db
    .updateTable('item')
    .set((set) => ({ changeNo: set.fn<number>('nextval', [set.val('change_number')]) }))
    .where('id', 'in', ids)
    .execute();
  await notify(db, { about: 'items', ids });
}

/** Another program saved the file: what it says now is read; what people told here stays. */
async function readAgain(house: House, place: Place, { known, seen }: Found): Promise<void> {
  const path = joinPath(place.root, seen.path);
  const contentHash = await hashFile(path);
  if (contentHash === known.content) return follow(house, place, [{ known, seen }]);
  const row = await house.db
    .selectFrom('file as f')
    .innerJoin('item as i', 'i.id', 'f.itemId')
    .select(['f.itemId', 'f.role', 'i.mediaType', 'i.technical'])
    .where('f.id', '=', known.id)
    .executeTakeFirstOrThrow();
  const set = {
    contentHash,
    state: 'present' as const,
    missingSince: null,
    verifiedAt: new Date(),
  };
  await follow(house, place, [{ known, seen }]);
  if (row.role !== 'original') {
    await house.db.updateTable('file').set(set).where('id', '=', known.id).execute();
    return;
  }
  const facts = await readFacts(path, null);
  const essenceHash = await hashEssence(path, seen.size, row.mediaType);
  const [record] = await readRecords(house.db, [row.itemId]);
  await house.db.transaction().execute(async (db) => {
    await db
      .updateTable('file')
      .set({
        ...set,
        essenceHash,
        pictureKey: `${essenceHash ?? contentHash}-${facts.orientation}`,
      })
      .where('id', '=', known.id)
      .execute();
    await db
      .updateTable('item')
      .set({
        technical: JSON.stringify({ ...row.technical, ...facts.technical }),
        width: facts.width,
        height: facts.height,
      })
      .where('id', '=', row.itemId)
      .execute();
    const fromFile = FIELD_KEYS.filter((key) => {
      const source = record?.provenance[key]?.source;
      return source === undefined || source === 'file';
    });
    const next = { ...record!.values };
    for (const key of fromFile) Object.assign(next, { [key]: facts.record[key] });
    const changed = differences(record!.values, next);
    if (changed.length > 0) {
      await storeValues(db, row.itemId, next, changed, {
        source: 'file',
        by: null,
        at: new Date(),
      });
      await db
        .updateTable('file')
        .set((to) => ({ writtenVersion: to('writtenVersion', '+', 1) }))
        .where('id', '=', known.id)
        .execute();
    }
    await tellOf(db, [known.id]);
    await enqueue(db, [
      { task: 'pictures', title: 'Making pictures anew', subject: row.itemId, itemId: row.itemId },
    ]);
  });
}

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
    .where('f.size', 'in', [...new Set(unknown.map(({ size }) => size))])
    .execute();
  const gone: KnownFile[] = [];
  for (const { id, name, size, contentHash, state, folder, root } of rows) {
    const isThere = state !== 'missing' && (await factsOf(joinPath(root, folder, name))) !== null;
    const nowhere = { path: '', modified: '', inode: '', isMissing: true };
    if (!isThere) gone.push({ id, size, content: contentHash, ...nowhere });
  }
  return gone;
}

/** Find the gone among the unknown by content; mark the rest missing; bring what is new into the catalogue. */
async function settleUnknown(
  house: House,
  place: Place,
  { gone, unknown }: Comparison,
): Promise<void> {
  const sought = [...gone, ...(await goneElsewhere(house, place.id, unknown))];
  const read = await Promise.all(
    worthReading(sought, unknown).map(async (seen) => ({
      seen,
      content: await hashFile(joinPath(place.root, seen.path)),
    })),
  );
  const again = matchByContent(sought, read);
  await follow(house, place, again);
  const found = new Set(again.map(({ known }) => known.id));
  const lost = gone.filter(({ id, isMissing }) => !found.has(id) && !isMissing);
  if (lost.length > 0)
    await house.db.transaction().execute(async (db) => {
      const ids = lost.map(({ id }) => id);
      await db
        .updateTable('file')
        .set({ state: 'missing', missingSince: house.now() })
        .where('id', 'in', ids)
        .execute();
      await tellOf(db, ids);
    });
  const taken = new Set(again.map(({ seen }) => seen.path));
  const added = unknown.filter(({ path }) => !taken.has(path) && !isSidecar(path));
  if (added.length > 0)
    await startAccession(house.db, {
      title: `Found in ${place.name}`,
      source: { kind: 'folder', name: place.root },
      root: place.root,
      mode: 'in-place',
      place,
      plan: { filing: '', naming: '[name]' },
      files: added.map(({ path, size }) => ({ path, size })),
      actorId: null,
    });
}

const pause = (milliseconds: number): Promise<void> =>
  new Promise((resolve) => setTimeout(resolve, milliseconds));

/** Ask for a place to be compared with its disk; one waiting comparison is enough. */
export async function askToCompare(
  house: House,
  place: Pick<Place, 'id' | 'name'>,
  actorId: string | null = null,
): Promise<void> {
  await enqueue(house.db, [
    {
      task: 'compare-place',
      title: `Comparing “${place.name}” with its disk`,
      subject: place.id,
      createdBy: actorId,
      unit: 'files',
    },
  ]);
}

/** Job: pick up what other programs did in a place. A place that is away loses nothing. */
export async function comparePlaceJob(
  house: House,
  job: JobRow,
  progress: Progress,
): Promise<void> {
  const place = await placeById(house.db, job.subject);
  if (!(await rootIsHere(house, place))) return setHere(house, place, false);
  await setHere(house, place, true);
  const first = await differencesOf(house, place, progress);
  if (countOf(first) > 0) {
    await pause(LASTS_MS);
    if (!(await rootIsHere(house, place))) return setHere(house, place, false);
    const second = await differencesOf(house, place, progress);
    const found = lasting(first, second);
    const total = countOf(found);
    let done = 0;
    const report = async (more: number): Promise<void> => {
      done += more;
      await progress.report(done, total, 'differences');
      await progress.checkWish();
    };
    await follow(house, place, [...found.moved, ...found.back]);
    await report(found.moved.length + found.back.length);
    for (const one of found.touched) {
      await readAgain(house, place, one);
      await report(1);
    }
    await settleUnknown(house, place, found);
    await progress.report(total, total, 'differences');
    // What changed between the looks gets two looks of its own.
    if (countOf(second) > total) await askToCompare(house, place);
  }
  await house.db
    .updateTable('place')
    .set({ lookedAt: house.now() })
    .where('id', '=', place.id)
    .execute();
}
