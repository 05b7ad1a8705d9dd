import { sql, type Kysely } from 'kysely';
import type { Choice, Choices, FolderNode, Histogram } from '#core/catalogue/tile';
import { ArchiveError } from '#core/errors';
import type { Field } from '#core/fields/field';
import { TYPES, type TypeTraits } from '#core/fields/types';
import { fieldOf } from '#core/fields/registry';
import type { Viewer } from '#core/sight/viewer';
import { EVERYTHING, refTo, type Query } from '#core/query/tree';
import { likeText } from '#core/text/like';
import type { Database } from '../db/schema';
import { asked } from '../query/conditions';
import {
  BARS,
  colourChoices,
  countedQuery,
  isSpread,
  MOST_CHOICES,
  shownChoices,
  summedUp,
  timeChoices,
} from '#core/choices/shown';
import { WASTEBASKET } from '#core/holdings/wastebasket';
import { FROM, intervalOf, isSaid, valueOf } from '../query/expressions';
import { countOf } from './find';
import { isHeld } from '../sight/seen';

type Db = Kysely<Database>;
/** Counts of the values of a field that has one of each. */
async function singles(db: Db, viewer: Viewer, query: Query, field: Field): Promise<Choice[]> {
  const { where } = await asked(db, viewer, query);
  const { rows } = await sql<{ value: string; label: string | null; count: number }>`
    with counted as (
      select (${valueOf(field)})::text as value, count(*)::int as count from ${FROM}
      where ${where} and ${isSaid(field)} group by 1
    ) select counted.value, counted.count, ${LABELS[field.of ?? ''] ?? sql`null`} as label from counted`.execute(
    db,
  );
  const values = new Map((field.values ?? []).map(({ key, label }, at) => [key, { label, at }]));
  const choices = rows.map(({ value, label, count }) => ({
    value: field.of ? refTo(value) : field.type === 'number' ? Number(value) : value,
    label: label ?? values.get(value)?.label ?? value,
    count,
  }));
  if (!field.values || field.key === 'format') return choices;
  const counts = new Map(choices.map(({ value, count }) => [value, count]));
  return field.values.map(({ key, label }) => ({ value: key, label, count: counts.get(key) ?? 0 }));
}

/** Labels of references, by the counted value. */
const LABELS: Record<string, ReturnType<typeof sql>> = {
  stage: sql`(select s.name from stage s where s.id = counted.value::uuid)`,
  accession: sql`(select a.year || '.' || lpad(a.number::text, greatest(3, length(a.number::text)), '0') || ' ' || a.title
    from accession a where a.id = counted.value::uuid)`,
  person: sql`(select p.name from person p where p.id = counted.value::uuid)`,
};

async function terms(db: Db, viewer: Viewer, query: Query, typed: string): Promise<Choice[]> {
  const like = `%${likeText(typed.toLowerCase())}%`;
  const { where } = await asked(db, viewer, query);
  const { rows } = await sql<{ id: string; label: string; under: string | null; count: number }>`
    with recursive found as materialized (select i.id from ${FROM} where ${where}),
    above as (
      select id, id as ancestor from term
      union select a.id, b.broader_id from above a join term_broader b on b.term_id = a.ancestor
    )
    select t.id, t.label,
      (select min(b.broader_id::text)::uuid from term_broader b where b.term_id = t.id) as under, count(distinct it.item_id)::int as count
    from above a join term t on t.id = a.ancestor
      join item_term it on it.term_id = a.id join found on found.id = it.item_id
    where lower(t.label) like ${like}
    group by 1, 2 order by 4 desc, 2 limit ${MOST_CHOICES + 1}`.execute(db);
  return rows.map(({ id, under, ...rest }) => ({
    ...rest,
    value: refTo(id),
    under: under && refTo(under),
  }));
}

/** How many items have each of some terms, or narrower ones; by id. */
export async function termSums(
  db: Db,
  viewer: Viewer,
  ids: readonly string[],
): Promise<Record<string, number>> {
  const { where } = await asked(db, viewer, EVERYTHING);
  const { rows } = await sql<{ top: string; count: number }>`
    with recursive below as (
      select id as top, id from unnest(${[...ids]}::uuid[]) as id
      union select below.top, b.term_id from below join term_broader b on b.broader_id = below.id
    )
    select below.top, count(distinct i.id)::int as count from below
      join item_term it on it.term_id = below.id join (select i.id from ${FROM} where ${where}) i on i.id = it.item_id
    group by 1`.execute(db);
  return Object.fromEntries(rows.map(({ top, count }) => [top, count]));
}

async function collections(db: Db, viewer: Viewer, query: Query): Promise<Choice[]> {
  const { where } = await asked(db, viewer, query);
  const { rows } = await sql<{ id: string; label: string; count: number }>`
    with found as materialized (select i.id from ${FROM} where ${where})
    select c.id, c.name as label, count(*)::int as count from collection_item ci
      join found on found.id = ci.item_id join collection c on c.id = ci.collection_id and ${isHeld('c')}
    group by 1, 2 order by 2 limit ${MOST_CHOICES + 1}`.execute(db);
  return rows.map(({ id, ...rest }) => ({ ...rest, value: refTo(id) }));
}

/** Fields of many plain values: names. */
async function names(db: Db, viewer: Viewer, query: Query, field: Field): Promise<Choice[]> {
  const { where } = await asked(db, viewer, query);
  const { rows } = await sql<{ value: string; count: number }>`
    select value, count(distinct i.id)::int as count from ${FROM} cross join lateral unnest(${valueOf(field)}) as value
    where ${where} group by 1`.execute(db);
  return rows.map(({ value, count }) => ({ value, label: value, count }));
}

/**
 * Years and months, latest first. What is known by its year alone counts for its year, in no month; what spans years
 * is found by a span.
 */
async function times(db: Db, viewer: Viewer, query: Query, field: Field): Promise<Choice[]> {
  const { where } = await asked(db, viewer, query);
  const { from, to } = intervalOf(field);
  const { rows } = await sql<{ value: string; count: number }>`
    select case when to_char(${from}, 'YYYY-MM') = to_char(${to}, 'YYYY-MM') then to_char(${from}, 'YYYY-MM')
      when to_char(${from}, 'YYYY') = to_char(${to}, 'YYYY') then to_char(${from}, 'YYYY') else '' end as value,
      count(*)::int as count
    from ${FROM} where ${where} and ${from} is not null group by 1`.execute(db);
  return timeChoices(rows);
}

async function lackingOf(db: Db, viewer: Viewer, query: Query, field: Field): Promise<number> {
  const { where } = await asked(db, viewer, query);
  const { rows } = await sql<{ count: number }>`select count(*)::int as count from ${FROM}
    where ${where} and not coalesce(${isSaid(field)}, false)`.execute(db);
  return rows[0]!.count;
}

/** The field whose choices can be counted. @throws ArchiveError bad-request */
export function countedField(key: string): Field {
  const field = fieldOf(key);
  if (!field || field.type === 'words')
    throw new ArchiveError('bad-request', 'There is no such field to choose from.');
  return field;
}

/**
 * Choices of a field, each counted as if the condition at an index said it and all others stayed.
 * @param at index of the condition that is chosen anew; −1 for one that would be added
 */
export async function choicesOf(
  db: Db,
  viewer: Viewer,
  query: Query,
  { field: key, at = -1, typed = '' }: { field: string; at?: number; typed?: string },
): Promise<Choices> {
  const field = countedField(key);
  const rest = countedQuery(query, at);
  const counted: Record<TypeTraits['choices'], () => Promise<Choice[]>> = {
    none: () => Promise.resolve([]),
    colours: () =>
      colourChoices((near) => countOf(db, viewer, { ...rest, where: [...rest.where, near] })),
    times: () => times(db, viewer, rest, field),
    folders: () => folders(db, viewer, rest),
    values() {
      if (field.of === 'term') return terms(db, viewer, rest, typed);
      if (field.of === 'collection') return collections(db, viewer, rest);
      return field.many ? names(db, viewer, rest, field) : singles(db, viewer, rest, field);
    },
  };
  // What is spread over a range is counted in bars.
  const all = isSpread(field) ? [] : await counted[TYPES[field.type].choices]();
  return {
    ...shownChoices(
      field,
      all,
      field.of === 'term' ? '' : typed,
      await spreadOf(db, viewer, rest, field),
    ),
    lacking: await lackingOf(db, viewer, rest, field),
  };
}

/** How numbers that are all different are spread. */
async function spreadOf(
  db: Db,
  viewer: Viewer,
  query: Query,
  field: Field,
): Promise<Histogram | undefined> {
  if (!isSpread(field)) return undefined;
  const { where } = await asked(db, viewer, query);
  const { rows } = await sql<{ from: number; to: number; bar: number; count: number }>`
    with found as (select ${valueOf(field)}::float8 as value from ${FROM} where ${where}),
      ends as (select min(value) as "from", max(value) as "to",
        coalesce(nullif((max(value) - min(value)) / ${BARS}::float8, 0), 1) as step from found),
      near as (select value, "from", "to", step, floor((value - "from") / step) as at
        from found, ends where value is not null)
    select "from", "to", count(*)::int as count,
      -- As core's bins: on an edge the edge itself decides.
      least(${BARS - 1}, case when value < "from" + at * step then at - 1
        when value >= "from" + (at + 1) * step then at + 1 else at end)::int as bar
    from near group by 1, 2, 4`.execute(db);
  if (!rows[0]) return undefined;
  const counts = new Array<number>(BARS).fill(0);
  for (const { bar, count } of rows) counts[bar] = count;
  return { from: rows[0].from, to: rows[0].to, counts };
}

async function folders(db: Db, viewer: Viewer, query: Query): Promise<Choice[]> {
  return (await holdings(db, viewer, query)).map(({ id, parentId, name, count }) => ({
    value: refTo(id),
    label: name,
    count,
    under: parentId && refTo(parentId),
  }));
}

/** Every folder of every place with its counts, parents before children. */
export async function holdings(db: Db, viewer: Viewer, query: Query): Promise<FolderNode[]> {
  const { where } = await asked(db, viewer, query);
  const { rows } = await sql<FolderNode>`
    with found as (
      select f.folder_id, count(*)::int as here, min(i.taken_from) as "from", max(i.taken_to) as "to"
      from ${FROM} where ${where} group by 1
    )
    select d.id, d.parent_id, p.id as place_id, p.name as place, d.path,
      case when d.path = '' then p.name else d.name end as name,
      coalesce(found.here, 0) as here, found."from", found."to"
    from folder d join place p on p.id = d.place_id left join found on found.folder_id = d.id
    where d.path <> ${WASTEBASKET}
    order by lower(p.name), string_to_array(lower(d.path), '/')`.execute(db);
  return summedUp(rows.map((row) => ({ ...row, count: row.here, folders: 0 })));
}
