import { sql, type Kysely } from 'kysely';
import type { Tile, Wall, WallGroup } from '#core/catalogue/tile';
import { ArchiveError } from '#core/errors';
import { fieldOf } from '#core/fields/registry';
import type { Viewer } from '#core/sight/viewer';
import { groupFieldOf, type Query } from '#core/query/tree';
import { counted } from '#core/text/quantities';
import { NARROWEST, WIDEST } from '#core/wall/justify';
import type { Database } from '../db/schema';
import { asked } from '../query/conditions';
import { asSeen, seenBy, type SeenIds } from '../sight/seen';
import { FROM, orderOf, valueOf, type Expression } from '../query/expressions';

/** Key of a file's pictures, without what was chosen of them (../renditions/store). */
const ROOT = sql`regexp_replace(f.picture_key, '-(t\\d+|developed)$', '')`;
/** A span shows its first frame, once it is pictured; until then what its clip shows. */
const PICTURE = sql`case when i.first_ms is null then f.picture_key else ${ROOT} || '-t' || i.first_ms end`;
const TILE = sql`i.id, i.is_marker, i.number, f.name, i.kind, i.format, i.title, i.rating, i.stage_id as stage,
  i.taken_from as taken, i.taken_edtf, coalesce(i.creator[1], '') as creator, i.credit_line as credit, i.camera,
  d.path as folder, p.name as place, i.width, i.height, i.duration, f.size, i.id || '/' || ${PICTURE} as picture,
  case when i.first_ms is not null and not i.is_marker then i.id || '/' || ${ROOT} || '-t' || i.last_ms end as last_picture,
  i.no_picture, i.version, i.burst, i.burst_size, i.burst_lead,
  case when not p.here then 'away' else f.state end as file_state,
  case when i.no_picture is not null then 'none'
    when exists (select from rendition r where r.picture_key = ${PICTURE} and r.recipe = 'medium') then 'ready'
    else 'waiting' end as picture_state`;

/** One page of a result, in its order. */
export async function findTiles(
  db: Kysely<Database>,
  viewer: Viewer,
  query: Query,
  offset: number,
  limit: number,
): Promise<Tile[]> {
  const { where, order } = await asked(db, viewer, query);
  const { rows } = await sql<Tile>`select ${TILE} from ${FROM} where ${where}
    order by ${groupOrder(query)} ${order} limit ${limit} offset ${offset}`.execute(db);
  return rows;
}

/** Tiles of given items a viewer may see, in the order of the ids. */
export async function tilesOf(
  db: Kysely<Database>,
  viewer: Viewer,
  ids: readonly string[],
): Promise<Tile[]> {
  const { rows } = await sql<Tile>`select ${TILE} from ${FROM}
    join unnest(${[...ids]}::uuid[]) with ordinality as wished (id, position) on wished.id = i.id
    where ${seenBy(viewer, 'list', 'i')} order by wished.position`.execute(db);
  return rows;
}

/** How many a query finds. */
export async function countOf(db: Kysely<Database>, viewer: Viewer, query: Query): Promise<number> {
  const { where } = await asked(db, viewer, query);
  const { rows } = await sql<{ count: number }>`select count(*)::int as count from ${FROM}
    where ${where}`.execute(db);
  return rows[0]!.count;
}

/** More than one step takes in hand at once. */
export const MOST_IDS = 250_000;

export const tooMany = (): ArchiveError =>
  new ArchiveError(
    'value-refused',
    `These are more than ${counted(MOST_IDS, 'item')}; narrow the sentence and go step by step.`,
  );

/** Ids of a whole result, in its order. @throws ArchiveError value-refused where there are too many for one step */
export async function findIds(
  db: Kysely<Database>,
  viewer: Viewer,
  query: Query,
): Promise<SeenIds> {
  const { where, order } = await asked(db, viewer, query);
  const { rows } = await sql<{ id: string }>`select i.id from ${FROM} where ${where}
    order by ${groupOrder(query)} ${order} limit ${MOST_IDS + 1}`.execute(db);
  if (rows.length > MOST_IDS) throw tooMany();
  return asSeen(rows.map((row) => row.id));
}

/** Width ÷ height of a tile, as SQL. */
const ASPECT = sql`least(${WIDEST}::float8, greatest(${NARROWEST}::float8,
  coalesce(i.width::float8 / nullif(i.height, 0), 1.5)))`;

/** What parts a wall, as SQL: days as far as they are known. */
function groupSql(query: Query): Expression {
  const key = groupFieldOf(query);
  if (key === null) return sql`null::text`;
  const field = fieldOf(key)!;
  if (key === 'taken')
    return sql`case when i.taken_from is null then '' when i.taken_edtf ~ '^[0-9]{4}-[0-9]{2}-[0-9]{2}'
      then to_char(i.taken_from, 'YYYY-MM-DD') else i.taken_edtf end`;
  if (field.type === 'date')
    return sql`to_char(${valueOf(field)} at time zone 'UTC', 'YYYY-MM-DD')`;
  if (field.many) return sql`coalesce((${valueOf(field)})[1], '')`;
  return sql`coalesce((${valueOf(field)})::text, '')`;
}

/** Values of a field that parts the wall stand together: the wall is ordered by it first. */
function groupOrder(query: Query): Expression {
  const { group } = query;
  if (group === undefined || group === 'none' || group === query.order.by) return sql``;
  const field = fieldOf(group)!;
  const key = sql`nullif(${groupSql(query)}, '') collate "C" nulls last,`;
  if (field.type === 'date' || field.many) return key;
  // The number of an accession without that of its item.
  if (group === 'accession') return sql`i.number_key / 10000000 nulls last,`;
  return sql`${orderOf(field)} nulls last, ${key}`;
}

/** What a query finds, by the headings of its wall. */
export async function wallOf(db: Kysely<Database>, viewer: Viewer, query: Query): Promise<Wall> {
  const { where, order } = await asked(db, viewer, query);
  // Neighbours of one key are one group; the same key may come again behind others.
  const { rows } = await sql<WallGroup & { bytes: number }>`
    with found as (
      select ${groupSql(query)} as key, i.taken_from as at, f.size, ${ASPECT} as aspect,
        row_number() over (order by ${groupOrder(query)} ${order}) as nth
      from ${FROM} where ${where}
    ), parted as (
      select *, nth - row_number() over (partition by key order by nth) as part from found
    )
    select key, count(*)::int as count, (array_agg(at order by nth))[1] as "from",
      (array_agg(at order by nth desc))[1] as "to", sum(aspect)::float8 as wide, sum(size)::float8 as bytes
    from parted group by key, part order by min(nth)`.execute(db);
  return {
    total: rows.reduce((sum, { count }) => sum + count, 0),
    bytes: rows.reduce((sum, { bytes }) => sum + bytes, 0),
    groups: rows.map(({ bytes: _, ...group }) => group),
  };
}

/** Width ÷ height of a stretch of the wall, in hundredths. */
export async function stretchOf(
  db: Kysely<Database>,
  viewer: Viewer,
  query: Query,
  from: number,
  count: number,
): Promise<number[]> {
  const { where, order } = await asked(db, viewer, query);
  const { rows } = await sql<{ aspect: number }>`select round(100 * ${ASPECT})::int as aspect
    from ${FROM} where ${where} order by ${groupOrder(query)} ${order} limit ${count} offset ${from}`.execute(
    db,
  );
  return rows.map(({ aspect }) => aspect);
}

export interface Neighbours {
  index: number;
  total: number;
  previous: string | null;
  next: string | null;
}

/** Where an item stands in a result. */
export async function neighboursOf(
  db: Kysely<Database>,
  viewer: Viewer,
  query: Query,
  id: string,
): Promise<Neighbours | null> {
  const { where, order } = await asked(db, viewer, query);
  const { rows } = await sql<Neighbours>`
    select index, total, previous, next from (
      select i.id, (row_number() over w - 1)::int as index, (count(*) over ())::int as total,
        lag(i.id) over w as previous, lead(i.id) over w as next
      from ${FROM} where ${where} window w as (order by ${groupOrder(query)} ${order})
    ) ranked where id = ${id}::uuid`.execute(db);
  return rows[0] ?? null;
}
