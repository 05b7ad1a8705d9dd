import { sql, type Kysely } from 'kysely';
import { z } from 'zod';
import { ArchiveError } from '#core/errors';
import type { Kind } from '#core/kinds/kinds';
import { sightOf, type Viewer } from '#core/sight/viewer';
import { ROOM_SIZES, savable, type RoomSize } from '#core/rooms/grants';
import type { Database } from '../db/schema';
import { newId } from '../house/ids';
import type { RoomEntry } from '#core/entries/room';
import { lockPicked } from '../collections/collections';
import { changeLists, dropEntry, readEntries } from '../lists/journal';
import { hashToken, newToken } from '../house/tokens';
import { askForProxies } from './proxies';
import { notify } from '../live/notify';
import { isHeld, seenBy, through } from '../sight/seen';

export const newRoomSchema = z.object({
  collectionId: z.uuid(),
  title: z.string().trim().min(1, 'a title is needed').max(200),
  greeting: z.string().trim().max(2000).default(''),
  /** Last moment the link opens. */
  expiresAt: z.coerce.date(),
  sizes: z.array(z.enum(ROOM_SIZES)),
});
export type NewRoom = z.infer<typeof newRoomSchema>;

/** Open a reading room. @returns its link's token, which is shown once and kept nowhere */
export async function openRoom(
  db: Kysely<Database>,
  actorId: string | null,
  room: NewRoom,
): Promise<{ id: string; token: string }> {
  if (room.expiresAt.getTime() <= Date.now())
    throw new ArchiveError(
      'value-refused',
      'The link would have expired already; choose a later day.',
    );
  const id = newId();
  const token = newToken();
  const { collectionId, expiresAt, ...rest } = room;
  await changeLists(db, actorId, async (transaction) => {
    // One room for each collection row at a time: who adds to it meanwhile sees that it is open.
    await lockPicked(transaction, collectionId);
    const after: RoomEntry = {
      ...rest,
      collection: collectionId,
      expiresAt: expiresAt.toISOString(),
      link: hashToken(token),
    };
    return {
      summary: `Opened the reading room “${room.title}”`,
      entries: [{ list: 'room', id, before: null, after }],
    };
  });
  await askForProxies(db, collectionId);
  return { id, token };
}

const CLOSED = 'This reading room is closed.';

/** Give a room a new link; the old one is closed at once. @returns the new token @throws ArchiveError not-found */
export async function renewRoom(
  db: Kysely<Database>,
  actorId: string | null,
  id: string,
): Promise<string> {
  const token = newToken();
  await changeLists(db, actorId, async (transaction) => {
    const before = (await readEntries(transaction, 'room', [id])).get(id);
    if (!before) throw new ArchiveError('not-found', CLOSED);
    return {
      summary: `Gave the reading room “${before.title}” a new link`,
      entries: [{ list: 'room', id, before, after: { ...before, link: hashToken(token) } }],
    };
  });
  return token;
}

/** Close a room: its page and every picture address answer no more. @throws ArchiveError not-found where it is closed already */
export const revokeRoom = (
  db: Kysely<Database>,
  actorId: string | null,
  id: string,
): Promise<void> =>
  dropEntry(
    db,
    actorId,
    { list: 'room', id },
    { gone: CLOSED, summary: ({ title }) => `Closed the reading room “${title}”` },
  );

export interface RoomLine {
  id: string;
  title: string;
  collection: string;
  collectionId: string;
  sizes: string[];
  expiresAt: Date;
  revokedAt: Date | null;
  createdAt: Date;
  items: number;
  visitors: number;
  lastVisit: Date | null;
  picks: number;
  downloads: number;
}

/** Rooms, newest first, with what happened in them. */
export async function rooms(db: Kysely<Database>): Promise<RoomLine[]> {
  return db
    .selectFrom('readingRoom as r')
    .innerJoin('collection as c', 'c.id', 'r.collectionId')
    .select([
      'r.id',
      'r.title',
      'r.collectionId',
      'r.sizes',
      'r.expiresAt',
      'r.revokedAt',
      'r.createdAt',
      'c.name as collection',
    ])
    .select([
      sql<number>`(select count(*) from collection_item ci join item i on i.id = ci.item_id and ${through(sightOf({ role: 'guest' }, 'list'), 'i')} where ci.collection_id = r.collection_id)::int`.as(
        'items',
      ),
      sql<number>`(select count(*) from room_visit v where v.room_id = r.id)::int`.as('visitors'),
      sql<Date | null>`(select max(last_at) from room_visit v where v.room_id = r.id)`.as(
        'lastVisit',
      ),
      sql<number>`(select count(distinct k.item_id) from room_pick k join room_visit v on v.id = k.visit_id where v.room_id = r.id)::int`.as(
        'picks',
      ),
      sql<number>`(select count(*) from room_download d where d.room_id = r.id)::int`.as(
        'downloads',
      ),
    ])
    .orderBy('r.createdAt', 'desc')
    .execute();
}

/** Items guests picked in a room, with how many guests did. */
export async function picksOf(
  db: Kysely<Database>,
  roomId: string,
): Promise<{ itemId: string; guests: number }[]> {
  return db
    .selectFrom('roomPick as k')
    .innerJoin('roomVisit as v', 'v.id', 'k.visitId')
    .select(['k.itemId', sql<number>`count(*)::int`.as('guests')])
    .where('v.roomId', '=', roomId)
    .groupBy('k.itemId')
    .orderBy('guests', 'desc')
    .execute();
}

export interface OpenRoom {
  id: string;
  title: string;
  greeting: string;
  collectionId: string;
  sizes: RoomSize[];
  expiresAt: Date;
}

/**
 * The room a token opens. Tokens are compared by their hash, so that timing tells nothing.
 * @throws ArchiveError room-closed where it is unknown, expired or closed: a guest is told the same
 */
export async function roomOfToken(db: Kysely<Database>, token: string): Promise<OpenRoom> {
  const row = await db
    .selectFrom('readingRoom as r')
    .innerJoin('collection as c', 'c.id', 'r.collectionId')
    .select(['r.id', 'r.title', 'r.greeting', 'r.collectionId', 'r.sizes', 'r.expiresAt'])
    .where('r.tokenHash', '=', hashToken(token))
    .where('r.revokedAt', 'is', null)
    .where('r.expiresAt', '>', new Date())
    .where(isHeld('c'))
    .executeTakeFirst();
  if (!row)
    throw new ArchiveError(
      'room-closed',
      'This reading room is closed, or its link was copied in part.',
    );
  return { ...row, sizes: row.sizes as RoomSize[] };
}

/** Remember a guest's visit; a known one goes on. @returns the visit */
export async function visit(
  db: Kysely<Database>,
  roomId: string,
  known: string | undefined,
): Promise<string> {
  if (known && z.uuid().safeParse(known).success) {
    const row = await db
      .updateTable('roomVisit')
      .set({ lastAt: new Date() })
      .where('id', '=', known)
      .where('roomId', '=', roomId)
      .returning('id')
      .executeTakeFirst();
    if (row) return row.id;
  }
  const id = newId();
  await db.insertInto('roomVisit').values({ id, roomId }).execute();
  return id;
}

/** Who looks at what hangs in a room. */
export const guestOf = ({ collectionId }: Pick<OpenRoom, 'collectionId'>): Viewer => ({
  role: 'guest',
  room: collectionId,
});

export interface RoomItem {
  id: string;
  number: string;
  name: string;
  kind: Kind;
  title: string;
  caption: string;
  creator: string;
  credit: string;
  copyright: string;
  width: number | null;
  height: number | null;
  duration: number | null;
  size: number;
  noPicture: string | null;
  picked: boolean;
  /** What the guest may save of it. */
  sizes: RoomSize[];
}

/** What hangs in a room, in the collection's order. */
export async function roomItems(
  db: Kysely<Database>,
  room: OpenRoom,
  visitId: string,
): Promise<RoomItem[]> {
  const { rows } = await sql<Omit<RoomItem, 'sizes'>>`
    select i.id, i.number, f.name, i.kind, i.title, i.caption, array_to_string(i.creator, ', ') as creator,
      i.credit_line as credit, i.copyright_notice as copyright, i.width, i.height, i.duration, f.size,
      i.no_picture,
      exists (select from room_pick k where k.visit_id = ${visitId}::uuid and k.item_id = i.id) as picked
    from collection_item ci join item i on i.id = ci.item_id and ${seenBy(guestOf(room), 'list', 'i')}
    join file f on f.item_id = i.holder_id and f.role = 'original'
    where ci.collection_id = ${room.collectionId}::uuid order by ci.position, i.number_key limit 2000`.execute(
    db,
  );
  return rows.map((row) => ({ ...row, sizes: savable(room.sizes, row.kind) }));
}

/** The kind of an item that hangs in a room. @throws ArchiveError not-found where it does not */
export async function kindInRoom(
  db: Kysely<Database>,
  room: OpenRoom,
  itemId: string,
): Promise<Kind> {
  const row = await db
    .selectFrom('collectionItem as c')
    .innerJoin('item as i', 'i.id', 'c.itemId')
    .select('i.kind')
    .where('c.collectionId', '=', room.collectionId)
    .where('c.itemId', '=', itemId)
    .where(seenBy(guestOf(room), 'list', 'i'))
    .executeTakeFirst();
  if (!row) throw new ArchiveError('not-found', 'This picture does not hang in this room.');
  return row.kind;
}

/** Pick an item, or let go of it. */
export async function pick(
  db: Kysely<Database>,
  visitId: string,
  itemId: string,
  picked: boolean,
): Promise<void> {
  if (picked)
    await db
      .insertInto('roomPick')
      .values({ visitId, itemId })
      .onConflict((conflict) => conflict.doNothing())
      .execute();
  else
    await db
      .deleteFrom('roomPick')
      .where('visitId', '=', visitId)
      .where('itemId', '=', itemId)
      .execute();
  await notify(db, { about: 'rooms' });
}

/** Note what was taken away. */
export async function noteDownload(
  db: Kysely<Database>,
  roomId: string,
  visitId: string | null,
  itemId: string,
  size: RoomSize,
): Promise<void> {
  await db
    .insertInto('roomDownload')
    .values({ id: newId(), roomId, visitId, itemId, size })
    .execute();
  await notify(db, { about: 'rooms' });
}
