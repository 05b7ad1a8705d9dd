import { sql, type Kysely, type Transaction } from 'kysely';
import { ArchiveError } from '#core/errors';
import { HOUSE, type Viewer } from '#core/sight/viewer';
import { can } from '#core/people/roles';
import { conditionsOf, idOfRef, type Query } from '#core/query/tree';
import type { Actor } from '../auth/people';
import { isTaken } from '../db/problems';
import type { Database } from '../db/schema';
import { newId } from '../house/ids';
import { notify } from '../live/notify';
import { asSeen, letGoAt, isHeld, isNamedTo, seenBy, type SeenIds } from '../sight/seen';

type Db = Kysely<Database> | Transaction<Database>;

export interface Collection {
  id: string;
  name: string;
  note: string;
  kind: 'hand-picked' | 'standing';
  /** What a standing one finds. */
  query: Query | null;
  /** Items picked by hand; those a standing one finds are counted by ../catalogue/kept. */
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
        where ci.collection_id = c.id order by ci.position limit 4) x), '{}')`.as('cover'),
    ])
    .where(isHeld('c'))
    .where(isNamedTo(viewer, 'collection', 'c'))
    .orderBy(sql`lower(c.name)`);
  if (id) query = query.where('c.id', '=', id);
  return query.execute();
}

/** @throws ArchiveError not-found */
export async function collectionById(db: Db, viewer: Viewer, id: string): Promise<Collection> {
  const [found] = await collections(db, viewer, id);
  if (!found) throw new ArchiveError('not-found', 'This collection is not there any more.');
  return found;
}

/** Arbitrary, constant: sentences of standing collections are changed one after the other. */
const CIRCLE_LOCK = 4_180_011;

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

/** Make a collection: standing with a query (its names looked up), else hand-picked. @throws ArchiveError conflict where the name is in use */
export async function addCollection(
  db: Db,
  actorId: string | null,
  name: string,
  note = '',
  query: Query | null = null,
): Promise<string> {
  const id = newId();
  const kept = query ? { kind: 'standing' as const, query: JSON.stringify(query) } : {};
  const added = await db
    .insertInto('collection')
    .values({ id, name: name.trim(), note, parentId: null, createdBy: actorId, ...kept })
    .onConflict((conflict) => conflict.doNothing())
    .returning('id')
    .executeTakeFirst();
  if (!added) throw new ArchiveError('conflict', `There is a collection “${name.trim()}” already.`);
  await notify(db, { about: 'collections' });
  return id;
}

/** Change name, note, or what a standing one finds. @throws ArchiveError conflict, not-found */
export async function editCollection(
  database: Kysely<Database>,
  id: string,
  values: { name?: string; note?: string; query?: Query },
): Promise<void> {
  await database.transaction().execute(async (db) => {
    const { kind } = await collectionById(db, HOUSE, id);
    if (values.query) {
      if (kind !== 'standing')
        throw new ArchiveError(
          'conflict',
          'This collection is picked by hand; keep the sentence as another one.',
        );
      // Two who edit at once could close a circle that neither sees.
      await sql`select pg_advisory_xact_lock(${sql.lit(CIRCLE_LOCK)})`.execute(db);
      await refuseCircle(db, id, values.query);
    }
    if (values.name !== undefined) {
      const other = await db
        .selectFrom('collection')
        .select('id')
        .where(sql`lower(name)`, '=', values.name.trim().toLowerCase())
        .where(isHeld('collection'))
        .where('id', '<>', id)
        .executeTakeFirst();
      if (other)
        throw new ArchiveError(
          'conflict',
          `There is a collection “${values.name.trim()}” already.`,
        );
    }
    await db
      .updateTable('collection')
      .set({
        ...(values.name === undefined ? {} : { name: values.name.trim() }),
        ...(values.note === undefined ? {} : { note: values.note }),
        ...(values.query === undefined ? {} : { query: JSON.stringify(values.query) }),
      })
      .where('id', '=', id)
      .execute()
      .catch(refuseTaken);
    await notify(db, { about: 'collections' });
  });
}

/** The name was given to another one meanwhile. @throws ArchiveError conflict */
function refuseTaken(error: unknown): never {
  if (!isTaken(error)) throw error;
  throw new ArchiveError(
    'conflict',
    'Another collection has this name by now; rename that one first.',
    {},
    { cause: error },
  );
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
async function lockToChange(
  db: Transaction<Database>,
  actor: Pick<Actor, 'role'>,
  id: string,
): Promise<void> {
  await lockPicked(db, id);
  await refuseWhereShown(db, actor, id);
}

async function refuseWhereShown(
  db: Transaction<Database>,
  actor: Pick<Actor, 'role'>,
  id: string,
): Promise<void> {
  if (can(actor.role, 'dispatch')) return;
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
export async function removeCollection(
  db: Kysely<Database>,
  actor: Pick<Actor, 'role'>,
  id: string,
): Promise<void> {
  await db.transaction().execute(async (transaction) => {
    await lockCollection(transaction, id);
    await refuseWhereShown(transaction, actor, id);
    await letGoAt(transaction, 'collection', [id], new Date());
    await transaction
      .updateTable('readingRoom')
      .set({ revokedAt: new Date() })
      .where('collectionId', '=', id)
      .where('revokedAt', 'is', null)
      .execute();
    await notify(transaction, { about: 'collections' });
  });
}

/** Bring back what {@link removeCollection} let go of; its rooms stay closed. */
export async function restoreCollection(db: Db, id: string): Promise<void> {
  await letGoAt(db, 'collection', [id], null).catch(refuseTaken);
  await notify(db, { about: 'collections' });
}

/** Put items at the end, in the order given; those in it already stay where they are. @returns how many are new */
export async function addItems(
  db: Kysely<Database>,
  actor: Pick<Actor, 'role'>,
  collectionId: string,
  itemIds: SeenIds,
): Promise<number> {
  return db.transaction().execute(async (transaction) => {
    await lockToChange(transaction, actor, collectionId);
    const { rows } = await sql<{ itemId: string }>`
      insert into collection_item (collection_id, item_id, position)
      select ${collectionId}::uuid, i.id,
        (select coalesce(max(position), 0) from collection_item where collection_id = ${collectionId}::uuid) + wished.position
      from unnest(${itemIds}::uuid[]) with ordinality as wished (id, position)
      join item i on i.id = wished.id and ${isHeld('i')}
      on conflict (collection_id, item_id) do nothing returning item_id`.execute(transaction);
    await notify(transaction, { about: 'collections' });
    return rows.length;
  });
}

/** Take items out; they stay in the archive. @returns how many were in it */
export async function removeItems(
  db: Kysely<Database>,
  actor: Pick<Actor, 'role'>,
  collectionId: string,
  itemIds: SeenIds,
): Promise<number> {
  return db.transaction().execute(async (transaction) => {
    await lockToChange(transaction, actor, collectionId);
    const rows = await transaction
      .deleteFrom('collectionItem')
      .where('collectionId', '=', collectionId)
      .where('itemId', '=', sql<string>`any(${itemIds}::uuid[])`)
      .returning('itemId')
      .execute();
    await notify(transaction, { about: 'collections' });
    return rows.length;
  });
}

/** Ids in their own order. */
export async function idsInOrder(db: Db, viewer: Viewer, collectionId: string): Promise<SeenIds> {
  const rows = await db
    .selectFrom('collectionItem as c')
    .innerJoin('item as i', 'i.id', 'c.itemId')
    .select('c.itemId')
    .where('c.collectionId', '=', collectionId)
    .where(seenBy(viewer, 'list', 'i'))
    .orderBy('c.position')
    .execute();
  return asSeen(rows.map((row) => row.itemId));
}

/**
 * Move items to stand before another one (null: at the end), keeping their order among themselves.
 */
export async function moveItems(
  db: Kysely<Database>,
  actor: Pick<Actor, 'role'>,
  collectionId: string,
  itemIds: SeenIds,
  beforeId: string | null,
): Promise<void> {
  await db.transaction().execute(async (transaction) => {
    await lockToChange(transaction, actor, collectionId);
    const rows = await transaction
      .selectFrom('collectionItem')
      .select('itemId')
      .where('collectionId', '=', collectionId)
      .orderBy('position')
      .execute();
    const moving = new Set(itemIds);
    const kept = rows.map((row) => row.itemId).filter((id) => !moving.has(id));
    const moved = rows.map((row) => row.itemId).filter((id) => moving.has(id));
    const at = beforeId === null ? kept.length : kept.indexOf(beforeId);
    if (at < 0)
      throw new ArchiveError('conflict', 'The collection was changed meanwhile; look again.');
    const order = [...kept.slice(0, at), ...moved, ...kept.slice(at)];
    await sql`update collection_item set position = given.position
      from unnest(${order}::uuid[]) with ordinality as given (id, position)
      where collection_id = ${collectionId}::uuid and item_id = given.id`.execute(transaction);
    await notify(transaction, { about: 'collections' });
  });
}
