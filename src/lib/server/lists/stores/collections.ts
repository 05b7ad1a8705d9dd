import { sql } from 'kysely';
import type { CollectionEntry, PlacingEntry } from '#core/lists/entries';
import { isHeld, letGoAt } from '../../sight/seen';
import { among, type Store } from './store';

/** Collections; one that was let go of comes back with its items. */
export const collections: Store<CollectionEntry> = {
  async read(db, ids) {
    const rows = await db
      .selectFrom('collection')
      .select(['id', 'name', 'note', 'query', 'parentId'])
      .where('id', '=', among(ids))
      .where(isHeld('collection'))
      .execute();
    return new Map(rows.map(({ id, ...entry }) => [id, entry]));
  },
  async put(db, entries, by) {
    for (const [id, { name, note, query, parentId }] of entries) {
      const kept = { name, note, parentId, query: query === null ? null : JSON.stringify(query) };
      await db
        .insertInto('collection')
        .values({ id, ...kept, kind: query === null ? 'hand-picked' : 'standing', createdBy: by })
        .onConflict((conflict) => conflict.column('id').doUpdateSet(kept))
        .execute();
    }
    await letGoAt(db, 'collection', [...entries.keys()], null);
  },
  drop: (db, ids) => letGoAt(db, 'collection', ids, new Date()),
};

/** Where items stand in collections: each by itself, so that moving ten writes ten rows. */
export const placings: Store<PlacingEntry> = {
  async read(db, ids) {
    const { rows } = await sql<PlacingEntry & { id: string }>`
      select c.collection_id || '/' || c.item_id as id, c.collection_id as collection, c.item_id as item,
        c.position, c.note
      from ${bothIds(ids)} join collection_item c on c.collection_id = w.collection and c.item_id = w.item`.execute(
      db,
    );
    return new Map(rows.map(({ id, ...entry }) => [id, entry]));
  },
  async put(db, entries) {
    await sql`insert into collection_item (collection_id, item_id, position, note)
      select collection, item, position, note from json_to_recordset(${JSON.stringify([...entries.values()])}::json)
        as row(collection uuid, item uuid, position float8, note text)
      on conflict (collection_id, item_id) do update set position = excluded.position, note = excluded.note`.execute(
      db,
    );
  },
  async drop(db, ids) {
    await sql`delete from collection_item c using ${bothIds(ids)}
      where c.collection_id = w.collection and c.item_id = w.item`.execute(db);
  },
};
/** Ids of collections and items, as a table `w`. */
const bothIds = (ids: readonly string[]) =>
  sql`(select split_part(id, '/', 1)::uuid as collection, split_part(id, '/', 2)::uuid as item
    from unnest(${[...ids]}::text[]) as id) w`;
