import { sql, type Kysely, type RawBuilder, type Transaction } from 'kysely';
import type { Entries, ListKey, TermEntry, TermLabel } from '#core/lists/entries';
import { SUBJECTS } from '#core/access/access';
import { tidied } from '#core/terms/exchange';
import type { Database } from '../db/schema';
import { isHeld, letGoAt } from '../sight/seen';

type Db = Kysely<Database> | Transaction<Database>;

/** How the entries of a list are kept: read and put whole, however many. */
interface Store<E> {
  /** By id; those there are none of are left out. */
  read(db: Db, ids: readonly string[]): Promise<Map<string, E>>;
  put(db: Db, entries: ReadonlyMap<string, E>, by: string | null): Promise<void>;
  drop(db: Db, ids: readonly string[]): Promise<void>;
}

const among = (ids: readonly string[]): RawBuilder<string> => sql`any(${[...ids]}::uuid[])`;

/** A list that is one table, a column for each part of its entries. Column → type in SQL. */
function plain<L extends 'stage' | 'contributor' | 'stamp' | 'spot'>(
  table: L,
  columns: Record<keyof Entries[L] & string, string>,
): Store<Entries[L]> {
  const keys = Object.keys(columns);
  const all = sql.join(keys.map((key) => sql.ref(key)));
  // The keys of JSON are not names of columns: both are told.
  const types = sql.join(
    keys.map((key) => sql`${sql.ref(key)} ${sql.raw(columns[key as keyof typeof columns])}`),
  );
  return {
    async read(db, ids) {
      const { rows } = await sql<{ id: string } & Entries[L]>`select id, ${all}
        from ${sql.table(table)} where id = ${among(ids)}`.execute(db);
      return new Map(rows.map(({ id, ...entry }) => [id, entry as unknown as Entries[L]]));
    },
    async put(db, entries) {
      const rows = [...entries].map(([id, entry]) => ({ id, ...snaked(entry) }));
      await sql`insert into ${sql.table(table)} (id, ${all})
        select id, ${all} from json_to_recordset(${JSON.stringify(rows)}::json) as row(id uuid, ${types})
        on conflict (id) do update set ${sql.join(
          keys.map((key) => sql`${sql.ref(key)} = excluded.${sql.ref(key)}`),
        )}`.execute(db);
    },
    async drop(db, ids) {
      await sql`delete from ${sql.table(table)} where id = ${among(ids)}`.execute(db);
    },
  };
}

/** Keys as columns are called. */
const snaked = (entry: object): Record<string, unknown> =>
  Object.fromEntries(
    Object.entries(entry).map(([key, value]) => [
      key.replace(/[A-Z]/g, (letter) => `_${letter.toLowerCase()}`),
      value as unknown,
    ]),
  );

const terms: Store<TermEntry> = {
  async read(db, ids) {
    const { rows } = await sql<Omit<TermEntry, 'labels'> & { id: string; labels: TermLabel[] }>`
      select t.id, t.label, t.note, t.retired,
        coalesce((select json_agg(json_build_object('kind', l.kind, 'lang', l.lang, 'label', l.label)) from term_label l where l.term_id = t.id), '[]') as labels,
        array(select b.broader_id::text from term_broader b where b.term_id = t.id) as broader,
        array(select r.related_id::text from term_related r where r.term_id = t.id
          union select r.term_id::text from term_related r where r.related_id = t.id) as related
      from term t where t.id = ${among(ids)}`.execute(db);
    // In one order, however the database compares texts: entries are compared whole.
    return new Map(rows.map(({ id, ...entry }) => [id, tidied(entry)]));
  },
  async put(db, entries) {
    const ids = [...entries.keys()];
    const rows = [...entries].map(([id, { label, note, retired }]) => ({
      id,
      label,
      note,
      retired,
    }));
    await sql`insert into term (id, label, note, retired)
      select id, label, note, retired from json_to_recordset(${JSON.stringify(rows)}::json)
        as row(id uuid, label text, note text, retired boolean)
      on conflict (id) do update set label = excluded.label, note = excluded.note, retired = excluded.retired`.execute(
      db,
    );
    for (const table of ['term_broader', 'term_label'])
      await sql`delete from ${sql.table(table)} where term_id = ${among(ids)}`.execute(db);
    await sql`delete from term_related where term_id = ${among(ids)} or related_id = ${among(ids)}`.execute(
      db,
    );
    const all = [...entries];
    const above = all.flatMap(([id, { broader }]) => broader.map((one) => [id, one] as const));
    await sql`insert into term_broader (term_id, broader_id)
      select * from unnest(${above.map(([id]) => id)}::uuid[], ${above.map(([, one]) => one)}::uuid[])`.execute(
      db,
    );
    const beside = all.flatMap(([id, { related }]) => related.map((one) => [id, one] as const));
    await sql`insert into term_related (term_id, related_id)
      select distinct least(a, b), greatest(a, b) from unnest(
        ${beside.map(([id]) => id)}::uuid[], ${beside.map(([, one]) => one)}::uuid[]) as pair (a, b)
      on conflict do nothing`.execute(db);
    const labels = all.flatMap(([id, entry]) => entry.labels.map((one) => ({ id, ...one })));
    await sql`insert into term_label (term_id, kind, lang, label)
      select id, kind, lang, label from json_to_recordset(${JSON.stringify(labels)}::json)
        as row(id uuid, kind text, lang text, label text)
      on conflict do nothing`.execute(db);
  },
  async drop(db, ids) {
    await sql`delete from term where id = ${among(ids)}`.execute(db);
  },
};

/** Collections; one that was let go of comes back with its items. */
const collections: Store<Entries['collection']> = {
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
const placings: Store<Entries['placing']> = {
  async read(db, ids) {
    const { rows } = await sql<Entries['placing'] & { id: string }>`
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

/** Marks of access: who is told by them is settled by the database. */
const marks: Store<Entries['access']> = {
  async read(db, ids) {
    const { rows } = await sql<Entries['access'] & { id: string }>`select id, state, note,
        case ${sql.join(
          SUBJECTS.map((one) => sql`when ${sql.ref(`${one}_id`)} is not null then ${sql.lit(one)}`),
          sql` `,
        )} end as subject,
        coalesce(${sql.join(SUBJECTS.map((one) => sql.ref(`${one}_id`)))}) as of
      from access_mark where id = ${among(ids)}`.execute(db);
    return new Map(
      rows.map(({ id, subject, of, state, note }) => [id, { subject, of, state, note }]),
    );
  },
  async put(db, entries) {
    for (const [id, { subject, of, state, note }] of entries)
      await sql`insert into access_mark (id, ${sql.ref(`${subject}_id`)}, state, note)
        values (${id}::uuid, ${of}::uuid, ${state}, ${note})
        on conflict (id) do update set state = excluded.state, note = excluded.note`.execute(db);
  },
  async drop(db, ids) {
    await sql`delete from access_mark where id = ${among(ids)}`.execute(db);
  },
};

export const STORES: { [L in ListKey]: Store<Entries[L]> } = {
  stage: plain('stage', {
    name: 'text',
    shape: 'text',
    colour: 'text',
    key: 'text',
    position: 'integer',
    formerly: 'text[]',
    retired: 'boolean',
  }),
  contributor: plain('contributor', {
    name: 'text',
    kind: 'text',
    also: 'text[]',
    creditLine: 'text',
    copyrightNotice: 'text',
    usageTerms: 'text',
    email: 'text',
    phone: 'text',
    web: 'text',
    note: 'text',
    retired: 'boolean',
  }),
  stamp: plain('stamp', { name: 'text', project: 'text', lines: 'jsonb' }),
  spot: plain('spot', {
    name: 'text',
    latitude: 'float8',
    longitude: 'float8',
    radius: 'float8',
    sublocation: 'text',
    city: 'text',
    state: 'text',
    country: 'text',
    note: 'text',
  }),
  term: terms,
  collection: collections,
  placing: placings,
  access: marks,
};
