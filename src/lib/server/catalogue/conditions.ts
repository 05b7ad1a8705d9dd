import { sql, type Kysely, type RawBuilder } from 'kysely';
import { takenFromText } from '#core/records/taken';
import type { Lackable, OrderKey, Query } from '#core/query/tree';
import { searchWords } from '#core/text/words';
import type { Database } from '../db/schema';

/** Conditions over the tables `item i`, `file f` (the original), `folder d`, `place p`. */
type Condition = RawBuilder<unknown>;
type Db = Kysely<Database>;

const LACKING: Record<Lackable, Condition> = {
  title: sql`i.title = ''`,
  caption: sql`i.caption = ''`,
  creator: sql`i.creator = '{}'`,
  credit: sql`i.credit_line = ''`,
  copyright: sql`i.copyright_notice = ''`,
  terms: sql`not exists (select from item_term it where it.item_id = i.id)`,
  date: sql`i.taken_from is null`,
  place: sql`i.latitude is null`,
};

export const lacking = (field: Lackable): Condition => LACKING[field];

/** What the labels of a query stand for; looked up once, so that its statement holds ids alone. */
interface Named {
  placeId: string | null;
  stageIds: string[];
  /** For each term asked for, by its place in the list, itself and all narrower ones. */
  terms: { ord: number; id: string }[];
  collectionId: string | null;
  accessionId: string | null;
}

async function idOf(
  db: Db,
  table: 'place' | 'collection',
  name: string | undefined,
): Promise<string | null> {
  if (name === undefined) return null;
  const left = table === 'collection' ? sql`and deleted_at is null` : sql``;
  const { rows } = await sql<{ id: string }>`select id from ${sql.table(table)}
    where lower(name) = ${name.toLowerCase()} ${left} limit 1`.execute(db);
  return rows[0]?.id ?? null;
}

async function termsNamed(db: Db, labels: string[]): Promise<Named['terms']> {
  if (labels.length === 0) return [];
  const { rows } = await sql<{ ord: number; id: string }>`
    with recursive narrower as (
      select asked.ord::int as ord, t.id
      from unnest(${labels.map((label) => label.toLowerCase())}::text[]) with ordinality as asked (label, ord)
      join term t on lower(t.label) = asked.label
      union select n.ord, t.id from term t join narrower n on t.broader_id = n.id
    ) select ord, id from narrower`.execute(db);
  return rows;
}

async function accessionNamed(db: Db, text: string | undefined): Promise<string | null> {
  const [, year, number] = /^(\d{4})\.(\d{1,9})$/.exec(text ?? '') ?? [];
  if (!year) return null;
  const row = await db
    .selectFrom('accession')
    .select('id')
    .where('year', '=', Number(year))
    .where('number', '=', Number(number))
    .executeTakeFirst();
  return row?.id ?? null;
}

async function stagesNamed(db: Db, names: string[]): Promise<string[]> {
  if (names.length === 0) return [];
  const rows = await db
    .selectFrom('stage')
    .select('id')
    .where(sql`lower(name)`, '=', sql`any(${names.map((name) => name.toLowerCase())}::text[])`)
    .execute();
  return rows.map(({ id }) => id);
}

async function named(db: Db, query: Query): Promise<Named> {
  const [placeId, stageIds, terms, collectionId, accessionId] = await Promise.all([
    idOf(db, 'place', query.folder?.place),
    stagesNamed(db, (query.stages ?? []).filter(Boolean)),
    termsNamed(db, query.terms ?? []),
    idOf(db, 'collection', query.collection),
    accessionNamed(db, query.accession),
  ]);
  return { placeId, stageIds, terms, collectionId, accessionId };
}

function folderCondition(
  { path, deep }: NonNullable<Query['folder']>,
  placeId: string | null,
): Condition {
  if (placeId === null) return sql`false`;
  const inPlace = sql`f.place_id = ${placeId}::uuid`;
  if (path === '' && deep) return inPlace;
  if (!deep) return sql`${inPlace} and d.path = ${path}`;
  // starts_with rather than LIKE: a folder may be called 50%.
  return sql`${inPlace} and (d.path = ${path} or starts_with(d.path, ${`${path}/`}))`;
}

/** The interval an item was taken in lies within the one asked for. */
function takenCondition(edtf: string): Condition {
  if (edtf === 'unknown') return sql`i.taken_from is null`;
  const wished = takenFromText(edtf);
  if (!wished) return sql`false`;
  // A moment typed to the minute means that whole minute.
  const to = wished.from === wished.to ? wished.to.replace(/:00\.000$/, ':59.999') : wished.to;
  return sql`i.taken_from >= ${wished.from}::timestamp and i.taken_to <= ${to}::timestamp`;
}

/** All the terms asked for, each by itself or by a narrower one: one look through, however many they are. */
function termsCondition(count: number, terms: Named['terms']): Condition {
  const ords = terms.map(({ ord }) => ord);
  if (new Set(ords).size < count) return sql`false`;
  return sql`i.id in (select it.item_id from item_term it
    join unnest(${ords}::int[], ${terms.map(({ id }) => id)}::uuid[]) as asked (ord, id) on asked.id = it.term_id
    group by it.item_id having count(distinct asked.ord) = ${count}::int)`;
}

function wordsCondition(text: string): Condition {
  const words = searchWords(text);
  if (words.length === 0) return sql`true`;
  return sql`i.words @@ ${words.map((word) => `'${word}':*`).join(' & ')}::tsquery`;
}

function conditionsOf(query: Query, { placeId, stageIds, terms, ...ids }: Named): Condition {
  const all: Condition[] = [sql`i.deleted_at is null`];
  if (query.kinds?.length) all.push(sql`i.kind = any(${query.kinds}::text[])`);
  if (query.folder) all.push(folderCondition(query.folder, placeId));
  if (query.taken) all.push(takenCondition(query.taken));
  if (query.rated) all.push(sql`i.rating between ${query.rated.min} and ${query.rated.max}`);
  if (query.stages?.length) {
    const none = query.stages.includes('') ? sql`i.stage_id is null or` : sql``;
    all.push(sql`(${none} i.stage_id = any(${stageIds}::uuid[]))`);
  }
  if (query.terms?.length) all.push(termsCondition(query.terms.length, terms));
  for (const field of query.lacking ?? []) all.push(LACKING[field]);
  if (query.words) all.push(wordsCondition(query.words));
  if (query.number) all.push(sql`i.number = ${query.number}`);
  if (query.accession) all.push(sql`i.accession_id = ${ids.accessionId}::uuid`);
  if (query.collection)
    all.push(sql`exists (select from collection_item ci
      where ci.item_id = i.id and ci.collection_id = ${ids.collectionId}::uuid)`);
  return sql.join(
    all.map((condition) => sql`(${condition})`),
    sql` and `,
  );
}

/** Tables every condition may speak of. */
export const FROM = sql`item i
  join file f on f.item_id = i.id and f.role = 'original'
  join folder d on d.id = f.folder_id
  join place p on p.id = f.place_id`;

const KEYS: Record<OrderKey, Condition> = {
  taken: sql`i.taken_from`,
  name: sql`lower(f.name)`,
  rating: sql`i.rating`,
  brought: sql`i.number`,
  size: sql`f.size`,
  title: sql`nullif(lower(i.title), '')`,
  hand: sql`i.taken_from`,
};

function orderOf({ order, collection }: Query, { collectionId }: Named): Condition {
  const key =
    order.by === 'hand' && collection
      ? sql`(select ci.position from collection_item ci
          where ci.item_id = i.id and ci.collection_id = ${collectionId}::uuid)`
      : KEYS[order.by];
  return order.down
    ? sql`${key} desc nulls last, i.number desc`
    : sql`${key} asc nulls last, i.number asc`;
}

/** A query ready to be asked: conditions joined by and; its order, ties by catalogue number, unknown values last. */
export interface Asked {
  where: Condition;
  order: Condition;
}

/** Look up what a query names, and say it in SQL over {@link FROM}. */
export async function asked(db: Db, query: Query): Promise<Asked> {
  const names = await named(db, query);
  return { where: conditionsOf(query, names), order: orderOf(query, names) };
}
