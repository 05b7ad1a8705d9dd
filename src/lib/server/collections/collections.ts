import { sql, type Kysely, type Transaction } from 'kysely';
import { ArchiveError } from '#core/errors';
import { HOUSE, type Viewer } from '#core/sight/viewer';
import { placingId, type PlacingEntry } from '#core/lists/entries';
import { can, type Role } from '#core/people/roles';
import { conditionsOf, idOfRef, type Query } from '#core/query/tree';
import { counted } from '#core/text/quantities';
import type { Database } from '../db/schema';
import { newId } from '../house/ids';
import { changeLists, entryOf, readEntries, type EntryChange } from '../lists/journal';
import { asSeen, isHeld, isLetGo, isNamedTo, seenBy, type SeenIds } from '../sight/seen';

type Db = Kysely<Database> | Transaction<Database>;

export interface Collection {
  id: string;
  name: string;
  note: string;
  kind: 'hand-picked' | 'standing';
  /** What a standing one finds. */
  query: Query | null;
  /** Items picked by hand; those a standing one finds are counted by ./kept. */
  count: number;
  /** Pictures of the first items, for the cover. */
  cover: string[];
}

/** Collections by name. */
export async function collections(db: Db, viewer: Viewer, id?: string): Promise<Collection[]> {
  let query = db
    .selectFrom('collection as c')
    .select(['c.id', 'c.name', 'c.note', 'c.kind', 'c.query'])
    .select([
      sql<number>`(select count(*) from collection_item ci join item i on i.id = ci.item_id
        where ci.collection_id = c.id and ${seenBy(viewer, 'list', 'i')})::int`.as('count'),
      sql<
        string[]
      >`coalesce((select array_agg(x.picture) from (select i.id || '/' || f.picture_key as picture
        from collection_item ci join item i on i.id = ci.item_id and ${seenBy(viewer, 'show', 'i')}
        join file f on f.item_id = i.holder_id and f.role = 'original'
        where ci.collection_id = c.id order by ci.position, i.number_key limit 4) x), '{}')`.as(
        'cover',
      ),
    ])
    .where(isHeld('c'))
    .where(isNamedTo(viewer, 'collection', 'c'))
    .orderBy(sql`lower(c.name)`);
  if (id) query = query.where('c.id', '=', id);
  return query.execute();
}

/** What collections are called, without a look at what lies in them. */
export const collectionNames = (
  db: Db,
  viewer: Viewer,
): Promise<Pick<Collection, 'id' | 'name' | 'kind'>[]> =>
  db
    .selectFrom('collection as c')
    .select(['c.id', 'c.name', 'c.kind'])
    .where(isHeld('c'))
    .where(isNamedTo(viewer, 'collection', 'c'))
    .orderBy(sql`lower(c.name)`)
    .execute();

/** @throws ArchiveError not-found */
export async function collectionById(db: Db, viewer: Viewer, id: string): Promise<Collection> {
  const [found] = await collections(db, viewer, id);
  if (!found) throw new ArchiveError('not-found', 'This collection is not there any more.');
  return found;
}

/** Collections a query asks for, by id. */
const askedIn = (query: Query): string[] =>
  [...conditionsOf(query.where)]
    .filter(({ field }) => field === 'collection')
    .flatMap(({ values }) => values.flatMap((value) => idOfRef(value) ?? []));

/** @throws ArchiveError conflict where a standing collection would ask for itself, however far round */
async function refuseCircle(db: Db, id: string, query: Query): Promise<void> {
  const seen = new Set<string>();
  let asked = askedIn(query);
  while (asked.length > 0) {
    if (asked.includes(id))
      throw new ArchiveError(
        'conflict',
        'A collection cannot be filled by a sentence that asks for it.',
      );
    const rows = await db
      .selectFrom('collection')
      .select(['id', 'query'])
      .where('id', '=', sql<string>`any(${asked}::uuid[])`)
      .execute();
    asked.forEach((one) => seen.add(one));
    asked = rows
      .flatMap(({ query: next }) => (next ? askedIn(next) : []))
      .filter((one) => !seen.has(one));
  }
}

/** Who changes a collection: a person, or with null the command line, and as what. */
export interface By {
  id: string | null;
  role: Role;
}

const LIST = 'collection' as const;

/** Make a collection: standing with a query (its names looked up), else hand-picked. @throws ArchiveError conflict where the name is in use */
export async function addCollection(
  db: Kysely<Database>,
  actorId: string | null,
  name: string,
  note = '',
  query: Query | null = null,
): Promise<string> {
  const id = newId();
  const after = { name: name.trim(), note, query, parentId: null };
  await changeLists(db, actorId, async (transaction) => {
    await refuseTaken(transaction, after.name, id);
    return {
      summary: `Made the collection “${after.name}”`,
      entries: [{ list: LIST, id, before: null, after }],
    };
  });
  return id;
}

/** Change name, note, or what a standing one finds. @throws ArchiveError conflict, not-found */
export async function editCollection(
  db: Kysely<Database>,
  actorId: string | null,
  id: string,
  values: { name?: string; note?: string; query?: Query },
): Promise<void> {
  await changeLists(db, actorId, async (transaction) => {
    const before = await entryOf(transaction, LIST, id);
    if (values.query) {
      if (before.query === null)
        throw new ArchiveError(
          'conflict',
          'This collection is picked by hand; keep the sentence as another one.',
        );
      // Lists are changed by one at a time: nobody closes a circle meanwhile that neither sees.
      await refuseCircle(transaction, id, values.query);
    }
    const name = values.name?.trim() ?? before.name;
    if (name !== before.name) await refuseTaken(transaction, name, id);
    const after = { ...before, ...values, name };
    const was = `the collection “${before.name}”`;
    return {
      summary: name === before.name ? `Changed ${was}` : `Called ${was} “${name}”`,
      entries: [{ list: LIST, id, before, after }],
    };
  });
}

/** The name is another one's. @throws ArchiveError conflict */
async function refuseTaken(db: Db, name: string, id: string): Promise<void> {
  const other = await db
    .selectFrom('collection')
    .select('id')
    .where(sql`lower(name)`, '=', name.toLowerCase())
    .where(isHeld('collection'))
    .where('id', '<>', id)
    .executeTakeFirst();
  if (other) throw new ArchiveError('conflict', `There is a collection “${name}” already.`);
}

/** Hold a collection against others who change it or open a room over it. @throws ArchiveError not-found */
export async function lockCollection(db: Transaction<Database>, id: string): Promise<void> {
  const row = await db
    .selectFrom('collection')
    .select('id')
    .where('id', '=', id)
    .where(isHeld('collection'))
    .forUpdate()
    .executeTakeFirst();
  if (!row) throw new ArchiveError('not-found', 'This collection is not there any more.');
}

/** As {@link lockCollection}, for what is done with its items. @throws ArchiveError conflict where it fills itself */
export async function lockPicked(db: Transaction<Database>, id: string): Promise<void> {
  await lockCollection(db, id);
  const { kind } = await collectionById(db, HOUSE, id);
  if (kind === 'standing')
    throw new ArchiveError(
      'conflict',
      'This collection fills itself; its items are not picked by hand.',
    );
}

/**
 * What hangs in an open reading room is changed by those who open rooms alone.
 * @throws ArchiveError not-allowed, not-found
 */
async function lockToChange(db: Transaction<Database>, by: By, id: string): Promise<string> {
  await lockPicked(db, id);
  await refuseWhereShown(db, by, id);
  return (await entryOf(db, LIST, id)).name;
}

/** @throws ArchiveError not-allowed */
export async function refuseWhereShown(db: Db, by: Pick<By, 'role'>, id: string): Promise<void> {
  if (can(by.role, 'dispatch')) return;
  const open = await db
    .selectFrom('readingRoom')
    .select('title')
    .where('collectionId', '=', id)
    .where('revokedAt', 'is', null)
    .where('expiresAt', '>', new Date())
    .executeTakeFirst();
  if (open)
    throw new ArchiveError(
      'not-allowed',
      `Guests see this collection in the reading room “${open.title}”: who opens rooms changes it.`,
    );
}

/** Let go of a collection; its items stay. Its reading rooms close with it. @throws ArchiveError not-allowed */
export async function removeCollection(db: Kysely<Database>, by: By, id: string): Promise<void> {
  await changeLists(db, by.id, async (transaction) => {
    await lockCollection(transaction, id);
    await refuseWhereShown(transaction, by, id);
    const before = await entryOf(transaction, LIST, id);
    const open = await transaction
      .selectFrom('readingRoom')
      .select('id')
      .where('collectionId', '=', id)
      .where('revokedAt', 'is', null)
      .execute();
    const rooms = await readEntries(
      transaction,
      'room',
      open.map((room) => room.id),
    );
    return {
      summary: `Let go of the collection “${before.name}”`,
      entries: [
        { list: LIST, id, before, after: null },
        ...[...rooms].map(([room, now]): EntryChange => ({
          list: 'room',
          id: room,
          before: now,
          after: null,
        })),
      ],
    };
  });
}

/** Bring back what {@link removeCollection} let go of; its rooms stay closed. @throws ArchiveError conflict, not-found */
export async function restoreCollection(
  db: Kysely<Database>,
  actorId: string | null,
  id: string,
): Promise<void> {
  await changeLists(db, actorId, async (transaction) => {
    const after = await transaction
      .selectFrom('collection')
      .select(['name', 'note', 'query', 'parentId'])
      .where('id', '=', id)
      .where(isLetGo('collection'))
      .executeTakeFirst();
    if (!after) throw new ArchiveError('not-found', 'This collection was not let go of.');
    await refuseTaken(transaction, after.name, id);
    return {
      summary: `Brought back the collection “${after.name}”`,
      entries: [{ list: LIST, id, before: null, after }],
    };
  });
}

/** Change places of items in a collection, as one deed. @returns how many changed */
async function place(
  db: Kysely<Database>,
  by: By,
  collection: string,
  plan: (
    transaction: Transaction<Database>,
  ) => Promise<{ before: PlacingEntry | null; after: PlacingEntry | null }[]>,
  did: (count: string, name: string) => string,
): Promise<number> {
  let count = 0;
  await changeLists(db, by.id, async (transaction) => {
    const name = await lockToChange(transaction, by, collection);
    const pairs = await plan(transaction);
    count = pairs.length;
    return {
      summary: did(counted(count, 'item'), name),
      entries: pairs.map(({ before, after }) => ({
        list: 'placing' as const,
        id: placingId(collection, (before ?? after)!.item),
        ...{ before, after },
      })),
    };
  });
  return count;
}

/** Places of some items in a collection, in its order. */
const placesOf = async (db: Db, collection: string, ids: SeenIds): Promise<PlacingEntry[]> => {
  const found = await readEntries(
    db,
    'placing',
    ids.map((id) => placingId(collection, id)),
  );
  return [...found.values()].sort((a, b) => a.position - b.position);
};

/** Put items at the end, in the order given; those in it already stay where they are. @returns how many are new */
export const addItems = (
  db: Kysely<Database>,
  by: By,
  collection: string,
  itemIds: SeenIds,
): Promise<number> =>
  place(
    db,
    by,
    collection,
    async (transaction) => {
      const { rows } = await sql<{ item: string; last: number }>`
        select i.id as item, (select coalesce(max(position), 0) from collection_item
          where collection_id = ${collection}::uuid) as last
        from unnest(${itemIds}::uuid[]) with ordinality as wished (id, position)
        join item i on i.id = wished.id and ${isHeld('i')}
        where not exists (select from collection_item c where c.collection_id = ${collection}::uuid and c.item_id = i.id)
        order by wished.position`.execute(transaction);
      return rows.map(({ item, last }, at) => ({
        before: null,
        after: { collection, item, position: last + at + 1, note: '' },
      }));
    },
    (count, name) => `Put ${count} into the collection “${name}”`,
  );

/** Take items out; they stay in the archive. @returns how many were in it */
export const removeItems = (
  db: Kysely<Database>,
  by: By,
  collection: string,
  itemIds: SeenIds,
): Promise<number> =>
  place(
    db,
    by,
    collection,
    async (transaction) =>
      (await placesOf(transaction, collection, itemIds)).map((before) => ({ before, after: null })),
    (count, name) => `Took ${count} out of the collection “${name}”`,
  );

/** Ids in their own order. */
export async function idsInOrder(db: Db, viewer: Viewer, collectionId: string): Promise<SeenIds> {
  const rows = await db
    .selectFrom('collectionItem as c')
    .innerJoin('item as i', 'i.id', 'c.itemId')
    .select('c.itemId')
    .where('c.collectionId', '=', collectionId)
    .where(seenBy(viewer, 'list', 'i'))
    .orderBy('c.position')
    .orderBy('i.numberKey')
    .execute();
  return asSeen(rows.map((row) => row.itemId));
}

/** Keys nearer to each other than this leave no room between them. */
const NEAREST = 1e-6;

/**
 * Move items to stand before another one (null: at the end), keeping their order among themselves: only theirs are written,
 * unless no room is left between two.
 */
export const moveItems = (
  db: Kysely<Database>,
  by: By,
  collection: string,
  itemIds: SeenIds,
  beforeId: string | null,
): Promise<number> =>
  place(
    db,
    by,
    collection,
    async (transaction) => {
      const moving = await placesOf(transaction, collection, itemIds);
      const stay = sql`collection_id = ${collection}::uuid and item_id <> all(${moving.map(({ item }) => item)}::uuid[])`;
      const { rows } = await sql<{ before: number | null; low: number | null; isShared: boolean }>`
        with target as (select position from collection_item where ${stay} and item_id = ${beforeId}::uuid)
        select (select position from target) as before,
          (select count(*) > 1 from collection_item join target using (position) where ${stay}) as "isShared",
          (select max(position) from collection_item
          where ${stay} and position < coalesce((select position from target), 'infinity')) as low`.execute(
        transaction,
      );
      const { before: high, low, isShared } = rows[0]!;
      if (beforeId !== null && high === null)
        throw new ArchiveError('conflict', 'The collection was changed meanwhile; look again.');
      const from = low ?? (high ?? 0) - moving.length - 1;
      const step = high === null ? 1 : (high - from) / (moving.length + 1);
      if (step < NEAREST || isShared) return renumbered(transaction, collection, moving, beforeId);
      return moving.map((before, at) => ({
        before,
        after: { ...before, position: from + step * (at + 1) },
      }));
    },
    (count, name) => `Moved ${count} in the collection “${name}”`,
  );

/** The whole of a collection, counted anew, with some items before another. */
async function renumbered(
  db: Db,
  collection: string,
  moving: PlacingEntry[],
  beforeId: string | null,
): Promise<{ before: PlacingEntry; after: PlacingEntry }[]> {
  const rows = await db
    .selectFrom('collectionItem as c')
    .innerJoin('item as i', 'i.id', 'c.itemId')
    .select(['c.itemId as item', 'c.position', 'c.note'])
    .where('c.collectionId', '=', collection)
    .orderBy('c.position')
    .orderBy('i.numberKey')
    .execute();
  const all = rows.map((row) => ({ collection, ...row }));
  const moved = new Set(moving.map(({ item }) => item));
  const kept = all.filter(({ item }) => !moved.has(item));
  const at = beforeId === null ? kept.length : kept.findIndex(({ item }) => item === beforeId);
  return [...kept.slice(0, at), ...moving, ...kept.slice(at)].map((before, nth) => ({
    before,
    after: { ...before, position: nth + 1 },
  }));
}
