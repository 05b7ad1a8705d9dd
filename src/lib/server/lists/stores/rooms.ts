import { sql } from 'kysely';
import type { RoomEntry } from '#core/entries/room';
import type { RoomSize } from '#core/rooms/grants';
import { among, type Store } from './store';

/** Reading rooms that are open; one that is dropped closes, and keeps what guests did in it. */
export const rooms: Store<RoomEntry> = {
  async read(db, ids) {
    const rows = await db
      .selectFrom('readingRoom')
      .select(['id', 'title', 'greeting', 'collectionId', 'sizes', 'expiresAt', 'tokenHash'])
      .where('id', '=', among(ids))
      .where('revokedAt', 'is', null)
      .execute();
    return new Map(
      rows.map(({ id, title, greeting, collectionId, sizes, expiresAt, tokenHash }) => [
        id,
        {
          title,
          greeting,
          collection: collectionId,
          sizes: sizes as RoomSize[],
          expiresAt: expiresAt.toISOString(),
          link: tokenHash,
        },
      ]),
    );
  },
  async put(db, entries, by) {
    for (const [id, { title, greeting, collection, sizes, expiresAt, link }] of entries) {
      const kept = { title, greeting, sizes, expiresAt: new Date(expiresAt), tokenHash: link };
      await db
        .insertInto('readingRoom')
        .values({ id, ...kept, collectionId: collection, createdBy: by })
        .onConflict((conflict) => conflict.column('id').doUpdateSet({ ...kept, revokedAt: null }))
        .execute();
    }
  },
  async drop(db, ids) {
    await sql`update reading_room set revoked_at = now()
      where id = ${among(ids)} and revoked_at is null`.execute(db);
  },
};
