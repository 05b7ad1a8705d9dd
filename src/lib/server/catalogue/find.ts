import { sql, type Kysely } from 'kysely';
import type { Tile, WallIndex } from '#core/catalogue/tile';
import { ArchiveError } from '#core/errors';
import type { Query } from '#core/query/tree';
import { counted } from '#core/text/quantities';
import type { Database } from '../db/schema';
import { asked, FROM } from './conditions';

const TILE = sql`i.id, i.number, f.name, i.kind, i.format, i.title, i.rating, i.stage_id as stage,
  i.taken_from as taken, i.taken_edtf, coalesce(i.creator[1], '') as creator, i.credit_line as credit, i.camera,
  d.path as folder, p.name as place, i.width, i.height, i.duration, f.size, f.picture_key as picture,
  i.no_picture, i.version,
  case when not p.here then 'away' else f.state end as file_state,
  case when i.no_picture is not null then 'none'
    when exists (select from rendition r where r.picture_key = f.picture_key and r.recipe = 'medium') then 'ready'
    else 'waiting' end as picture_state`;

/** One page of a result, in its order. */
export async function findTiles(
  db: Kysely<Database>,
  query: Query,
  offset: number,
  limit: number,
): Promise<Tile[]> {
  const { where, order } = await asked(db, query);
  const { rows } = await sql<Tile>`select ${TILE} from ${FROM} where ${where}
    order by ${order} limit ${limit} offset ${offset}`.execute(db);
  return rows;
}

/** Tiles of given items, in the order of the ids. */
export async function tilesOf(db: Kysely<Database>, ids: string[]): Promise<Tile[]> {
  const { rows } = await sql<Tile>`select ${TILE} from ${FROM}
    join unnest(${ids}::uuid[]) with ordinality as wished (id, position) on wished.id = i.id
    where i.deleted_at is null order by wished.position`.execute(db);
  return rows;
}

/** How many a query finds. */
export async function countOf(db: Kysely<Database>, query: Query): Promise<number> {
  const { where } = await asked(db, query);
  const { rows } = await sql<{ count: number }>`select count(*)::int as count from ${FROM}
    where ${where}`.execute(db);
  return rows[0]!.count;
}

/** More than one step takes in hand at once. */
const MOST_IDS = 250_000;

/** Ids of a whole result, in its order. @throws ArchiveError value-refused where there are too many for one step */
export async function findIds(db: Kysely<Database>, query: Query): Promise<string[]> {
  const { where, order } = await asked(db, query);
  const { rows } = await sql<{ id: string }>`select i.id from ${FROM} where ${where}
    order by ${order} limit ${MOST_IDS + 1}`.execute(db);
  if (rows.length > MOST_IDS)
    throw new ArchiveError(
      'value-refused',
      `These are more than ${counted(MOST_IDS, 'item')}; narrow the sentence and go step by step.`,
    );
  return rows.map((row) => row.id);
}

/** Everything the wall's geometry needs: one small number for each item. */
export async function wallIndex(db: Kysely<Database>, query: Query): Promise<WallIndex> {
  const byDay = query.order.by === 'taken';
  const day = byDay
    ? sql`case when i.taken_from is null then '' when i.taken_edtf ~ '^[0-9]{4}-[0-9]{2}-[0-9]{2}'
        then to_char(i.taken_from, 'YYYY-MM-DD') else i.taken_edtf end`
    : sql`null::text`;
  const { where, order } = await asked(db, query);
  const { rows } = await sql<{
    aspect: number;
    day: string | null;
    taken: string | null;
    size: number;
  }>`
    select (100 * coalesce(i.width::float / nullif(i.height, 0), 1.5))::int as aspect, ${day} as day,
      i.taken_from as taken, f.size
    from ${FROM} where ${where} order by ${order}`.execute(db);
  const groups: WallIndex['groups'] = [];
  let bytes = 0;
  for (const row of rows) {
    bytes += row.size;
    const last = groups.at(-1);
    if (last && last.key === row.day) {
      last.count += 1;
      last.to = row.taken;
    } else groups.push({ key: row.day, count: 1, from: row.taken, to: row.taken });
  }
  return { total: rows.length, bytes, groups, aspects: rows.map((row) => row.aspect) };
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
  query: Query,
  id: string,
): Promise<Neighbours | null> {
  const { where, order } = await asked(db, query);
  const { rows } = await sql<{
    index: number;
    total: number;
    previous: string | null;
    next: string | null;
  }>`
    select index, total, previous, next from (
      select i.id, (row_number() over w - 1)::int as index, (count(*) over ())::int as total,
        lag(i.id) over w as previous, lead(i.id) over w as next
      from ${FROM} where ${where} window w as (order by ${order})
    ) ranked where id = ${id}::uuid`.execute(db);
  return rows[0] ?? null;
}
