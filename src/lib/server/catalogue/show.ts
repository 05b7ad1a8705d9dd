import { sql, type Kysely } from 'kysely';
import { ArchiveError } from '#core/errors';
import type { ShownItem } from '#core/wire/shown';
import { can, type Role } from '#core/people/roles';
import type { Viewer } from '#core/sight/viewer';
import { withoutPaths } from '#core/text/paths';
import type { Database } from '../db/schema';
import { filesOf } from '../files/located';
import { readRecords } from '../records/records';
import { withoutChoice } from '../renditions/store';
import { isHeld, seenBy } from '../sight/seen';

/** More relations than a record card shows. */
const MOST_LINEAGE = 40;

/** Id of the item of a catalogue number. @throws ArchiveError not-found */
export async function itemByNumber(
  db: Kysely<Database>,
  viewer: Viewer,
  number: string,
): Promise<string> {
  const row = await db
    .selectFrom('item as i')
    .select('i.id')
    .where('i.number', '=', number)
    .where(seenBy(viewer, 'list', 'i'))
    .executeTakeFirst();
  if (!row) throw new ArchiveError('not-found', `There is no item ${number}.`);
  return row.id;
}

/** Pictures that were made of it, for either choice of how it is developed. */
const renditionsOf = (db: Kysely<Database>, pictureKey: string) =>
  db
    .selectFrom('rendition')
    .select(['recipe', 'width', 'height', 'bytes'])
    .where('pictureKey', 'in', [pictureKey, withoutChoice(pictureKey)])
    .orderBy('recipe')
    .execute();

/** The last work of each kind on it. */
const workOn = async (db: Kysely<Database>, itemId: string) => {
  const jobs = await db
    .selectFrom('job')
    .select(['task', 'state', 'attempts', 'reason'])
    .distinctOn('task')
    .where('itemId', '=', itemId)
    .orderBy('task')
    .orderBy('createdAt', 'desc')
    .execute();
  return jobs.map((job) => ({ ...job, reason: job.reason && withoutPaths(job.reason) }));
};

/** What it is in relation to others that may be seen. */
const relationsOf = (db: Kysely<Database>, viewer: Viewer, itemId: string) =>
  db
    .selectFrom('lineage as l')
    .innerJoin('item as o', 'o.id', 'l.ofId')
    .select(['l.kind', 'o.number', 'o.id'])
    .where('l.itemId', '=', itemId)
    .where(seenBy(viewer, 'list', 'o'))
    .unionAll(
      // Likeness has no direction: either is like the other.
      db
        .selectFrom('lineage as l')
        .innerJoin('item as o', 'o.id', 'l.itemId')
        .select(['l.kind', 'o.number', 'o.id'])
        .where('l.ofId', '=', itemId)
        .where('l.kind', 'in', ['twin of', 'lookalike of'])
        .where(seenBy(viewer, 'list', 'o')),
    )
    .orderBy('number')
    .limit(MOST_LINEAGE)
    .execute();

/** Names of the collections it was put into. */
const collectionsOf = async (db: Kysely<Database>, itemId: string): Promise<string[]> => {
  const rows = await db
    .selectFrom('collection as c')
    .innerJoin('collectionItem as ci', 'ci.collectionId', 'c.id')
    .select('c.name')
    .where('ci.itemId', '=', itemId)
    .where(isHeld('c'))
    .orderBy(sql`lower(c.name)`)
    .execute();
  return rows.map(({ name }) => name);
};

/** Its files; where they lie is told to keepers. */
const filesShown = async (db: Kysely<Database>, viewer: Viewer, holderId: string) => {
  const tellsPaths = viewer.role === 'house' || can(viewer.role as Role, 'manage');
  return (await filesOf(db, [holderId])).map(
    ({ role, state, place, folder, name, path, size, contentHash, essenceHash }) => ({
      ...{ role, state, place, folder, name, size, contentHash, essenceHash },
      path: tellsPaths ? path : '',
    }),
  );
};

/** Everything known of one item. @throws ArchiveError not-found */
export async function showItem(
  db: Kysely<Database>,
  viewer: Viewer,
  itemId: string,
): Promise<ShownItem> {
  const item = await db
    .selectFrom('item as i')
    .selectAll()
    .where('i.id', '=', itemId)
    .where(seenBy(viewer, 'list', 'i'))
    .executeTakeFirst();
  const [record] = await readRecords(db, [itemId]);
  if (!item || !record) throw new ArchiveError('not-found', 'There is no such item.');
  const original = await db
    .selectFrom('file')
    .selectAll()
    .where('itemId', '=', item.holderId)
    .where('role', '=', 'original')
    .executeTakeFirstOrThrow();
  const [files, renditions, jobs, lineage, collections] = await Promise.all([
    filesShown(db, viewer, item.holderId),
    renditionsOf(db, original.pictureKey),
    workOn(db, itemId),
    relationsOf(db, viewer, itemId),
    collectionsOf(db, itemId),
  ]);
  const isWritten = original.writtenVersion >= item.version;
  return {
    id: item.id,
    number: item.number,
    kind: item.kind,
    format: item.format,
    mediaType: item.mediaType,
    originalName: item.originalName,
    version: item.version,
    record: record.values,
    provenance: record.provenance,
    technical: item.technical,
    width: item.width,
    height: item.height,
    duration: item.duration,
    noPicture: item.noPicture && withoutPaths(item.noPicture),
    noPictureDetail: item.noPictureDetail,
    burstReason: item.burstReason,
    writing:
      Object.keys(item.disputes).length > 0
        ? 'differs'
        : isWritten
          ? 'written'
          : original.writeProblem
            ? 'failed'
            : 'waiting',
    disputes: item.disputes,
    writeProblem: original.writeProblem && withoutPaths(original.writeProblem),
    files,
    renditions,
    jobs,
    lineage,
    collections,
  };
}
