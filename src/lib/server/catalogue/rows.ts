import { sql, type Kysely } from 'kysely';
import type { Field } from '#core/fields/field';
import { knownField } from '#core/fields/registry';
import type { Viewer } from '#core/sight/viewer';
import type { Query } from '#core/query/tree';
import type { Database } from '../db/schema';
import { asked } from '../query/conditions';
import { isHeld, seenBy } from '../sight/seen';
import { FROM, valueOf, type Expression } from '../query/expressions';

/** What is told of one item: its fields by their keys, for programs and tables. */
export interface FoundRow {
  id: string;
  values: Record<string, unknown>;
}

/** Refs by their labels, dates as EDTF or instants, positions as [latitude, longitude]. */
function tellingOf(field: Field): Expression {
  switch (field.key) {
    case 'taken':
      return sql`i.taken_edtf`;
    case 'position':
      return sql`case when i.latitude is null then null else array[i.latitude, i.longitude] end`;
    case 'folder':
      return sql`case when d.path = '' then p.name else p.name || '/' || d.path end`;
    case 'stage':
      return sql`(select s.name from stage s where s.id = i.stage_id)`;
    case 'accession':
      return sql`(select a.year || '.' || lpad(a.number::text, greatest(3, length(a.number::text)), '0')
        from accession a where a.id = i.accession_id)`;
    case 'broughtBy':
      return sql`(select p2.name from accession a join person p2 on p2.id = a.created_by where a.id = i.accession_id)`;
    case 'terms':
      return sql`array(select t.label from item_term it join term t on t.id = it.term_id
        where it.item_id = i.id order by 1)`;
    case 'collection':
      return sql`array(select c.name from collection_item ci join collection c on c.id = ci.collection_id
        and ${isHeld('c')} where ci.item_id = i.id order by 1)`;
    default:
      return field.type === 'enum' ? sql`(${valueOf(field)})::text` : valueOf(field);
  }
}

const columnsOf = (keys: readonly string[]): Expression =>
  sql.join([
    sql`1 as one`,
    ...keys.map((key, at) => sql`${tellingOf(knownField(key))} as ${sql.id(`c${at}`)}`),
  ]);

const told = (row: Record<string, unknown>, keys: readonly string[]): FoundRow => ({
  id: String(row['id']),
  values: Object.fromEntries(keys.map((key, at) => [key, row[`c${at}`] ?? null])),
});

/**
 * Fields of the items a query finds, in its order.
 * @param after catalogue number key behind which to go on, for the order of the number alone
 */
export async function rowsFound(
  db: Kysely<Database>,
  viewer: Viewer,
  query: Query,
  keys: readonly string[],
  { limit, after, offset = 0 }: { limit: number; after?: number; offset?: number },
): Promise<(FoundRow & { numberKey: number })[]> {
  const { where, order } = await asked(db, viewer, query);
  const behind = after === undefined ? sql`true` : sql`i.number_key > ${after}`;
  const by = after === undefined ? order : sql`i.number_key`;
  const { rows } = await sql<Record<string, unknown>>`
    select i.id, i.number_key, ${columnsOf(keys)}
    from ${FROM} where ${where} and ${behind} order by ${by} limit ${limit} offset ${offset}`.execute(
    db,
  );
  return rows.map((row) => ({ ...told(row, keys), numberKey: Number(row['numberKey']) }));
}

/** Fields of some items, in the order they are named; what is held no more is left out. */
export async function rowsOf(
  db: Kysely<Database>,
  viewer: Viewer,
  ids: readonly string[],
  keys: readonly string[],
): Promise<FoundRow[]> {
  const { rows } = await sql<Record<string, unknown>>`select i.id, ${columnsOf(keys)} from ${FROM}
    join unnest(${ids}::uuid[]) with ordinality as wished (id, position) on wished.id = i.id
    where ${seenBy(viewer, 'list', 'i')} order by wished.position`.execute(db);
  return rows.map((row) => told(row, keys));
}
