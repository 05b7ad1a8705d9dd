import { sql, type RawBuilder } from 'kysely';
import { takenFromText } from '#core/records/taken';
import type { Lackable, OrderKey, Query } from '#core/query/tree';
import { searchWords } from '#core/text/words';

/** Conditions over the tables `item i`, `file f` (the original), `folder d`, `place p`. */
type Condition = RawBuilder<unknown>;

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

function folderCondition({ place, path, deep }: NonNullable<Query['folder']>): Condition {
  const inPlace = sql`lower(p.name) = ${place.toLowerCase()}`;
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

/** The term itself or any narrower one. */
const termCondition = (label: string): Condition => sql`exists (
  with recursive narrower as (
    select id from term where lower(label) = ${label.toLowerCase()}
    union select t.id from term t join narrower n on t.broader_id = n.id
  ) select from item_term it join narrower n on n.id = it.term_id where it.item_id = i.id)`;

function wordsCondition(text: string): Condition {
  const words = searchWords(text);
  if (words.length === 0) return sql`true`;
  return sql`i.words @@ ${words.map((word) => `'${word}':*`).join(' & ')}::tsquery`;
}

/** All conditions of a query, joined by and. */
export function conditionsOf(query: Query): Condition {
  const all: Condition[] = [sql`i.deleted_at is null`];
  if (query.kinds?.length) all.push(sql`i.kind = any(${query.kinds}::text[])`);
  if (query.folder) all.push(folderCondition(query.folder));
  if (query.taken) all.push(takenCondition(query.taken));
  if (query.rated) all.push(sql`i.rating between ${query.rated.min} and ${query.rated.max}`);
  if (query.stages?.length) {
    const named = query.stages.filter(Boolean).map((stage) => stage.toLowerCase());
    const none = query.stages.includes('') ? sql`i.stage_id is null or` : sql``;
    all.push(
      sql`(${none} i.stage_id in (select id from stage where lower(name) = any(${named}::text[])))`,
    );
  }
  for (const term of query.terms ?? []) all.push(termCondition(term));
  for (const field of query.lacking ?? []) all.push(LACKING[field]);
  if (query.words) all.push(wordsCondition(query.words));
  if (query.number) all.push(sql`i.number = ${query.number}`);
  if (query.accession) {
    const [year, number] = query.accession.split('.').map(Number);
    all.push(
      sql`i.accession_id in (select id from accession where year = ${year || 0} and number = ${number || 0})`,
    );
  }
  if (query.collection)
    all.push(sql`exists (select from collection_item ci join collection c on c.id = ci.collection_id
      where ci.item_id = i.id and c.deleted_at is null and lower(c.name) = ${query.collection.toLowerCase()})`);
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

/** The order of a query; ties by catalogue number, unknown values last. */
export function orderOf(query: Query): Condition {
  const { by, down } = query.order;
  const key =
    by === 'hand' && query.collection
      ? sql`(select ci.position from collection_item ci join collection c on c.id = ci.collection_id
          where ci.item_id = i.id and c.deleted_at is null and lower(c.name) = ${query.collection.toLowerCase()})`
      : KEYS[by];
  return down
    ? sql`${key} desc nulls last, i.number desc`
    : sql`${key} asc nulls last, i.number asc`;
}
