import { sql, type Kysely } from 'kysely';
import type { Choice, FolderNode } from '#core/catalogue/tile';
import { KINDS } from '#core/kinds/kinds';
import { LACKABLE, without, type ClauseField, type Query } from '#core/query/tree';
import type { Database } from '../db/schema';
import { asked, FROM, lacking } from './conditions';

async function grouped(
  db: Kysely<Database>,
  query: Query,
  key: ReturnType<typeof sql>,
): Promise<Choice[]> {
  const { where } = await asked(db, query);
  const { rows } = await sql<Choice>`select ${key} as value, count(*)::int as count from ${FROM}
    where ${where} group by 1 order by 1`.execute(db);
  return rows;
}

/** The terms given most, or of those that hold some letters. */
const MOST_TERMS = 400;

async function termChoices(db: Kysely<Database>, query: Query, typed: string): Promise<Choice[]> {
  const like = `%${typed.toLowerCase().replace(/[\\%_]/g, '\\$&')}%`;
  const { where } = await asked(db, query);
  const { rows } = await sql<Choice>`
    with recursive found as materialized (select i.id from ${FROM} where ${where}),
    above as (
      select id, id as ancestor from term
      union all select a.id, t.broader_id from above a join term t on t.id = a.ancestor where t.broader_id is not null
    )
    select t.label as value, b.label as under, count(distinct it.item_id)::int as count
    from above a join term t on t.id = a.ancestor left join term b on b.id = t.broader_id
      join item_term it on it.term_id = a.id join found on found.id = it.item_id
    where lower(t.label) like ${like}
    group by 1, 2 order by 3 desc, 1 limit ${MOST_TERMS}`.execute(db);
  return rows;
}

/**
 * Years and months, latest first. What is known by its year alone counts for its year, in no month; what spans
 * years is found by a span.
 */
async function takenChoices(db: Kysely<Database>, query: Query): Promise<Choice[]> {
  const finest = await grouped(
    db,
    query,
    sql`case when i.taken_from is null then 'unknown'
      when to_char(i.taken_from, 'YYYY-MM') = to_char(i.taken_to, 'YYYY-MM') then to_char(i.taken_from, 'YYYY-MM')
      when to_char(i.taken_from, 'YYYY') = to_char(i.taken_to, 'YYYY') then to_char(i.taken_from, 'YYYY')
      else '' end`,
  );
  const years = new Map<string, number>();
  const others = finest.filter(({ value, count }) => {
    const year = /^\d{4}/.exec(value)?.[0];
    if (year) years.set(year, (years.get(year) ?? 0) + count);
    return value.length > 4;
  });
  const counted = [...years].map(([value, count]) => ({ value, count }));
  return [...others, ...counted].sort((a, b) => (a.value < b.value ? 1 : -1));
}

/** Choices of a clause, each counted as if the clause said it and all others stayed. */
export async function choicesOf(
  db: Kysely<Database>,
  query: Query,
  field: ClauseField,
  typed = '',
): Promise<Choice[]> {
  const rest = without(query, field);
  switch (field) {
    case 'kinds': {
      const found = new Map(
        (await grouped(db, rest, sql`i.kind`)).map((choice) => [choice.value, choice.count]),
      );
      return KINDS.map((value) => ({ value, count: found.get(value) ?? 0 }));
    }
    case 'folder':
      return folderChoices(db, rest);
    case 'taken':
      return takenChoices(db, rest);
    case 'rated':
      return grouped(db, rest, sql`i.rating::text`);
    case 'stages':
      return grouped(
        db,
        rest,
        sql`coalesce((select s.name from stage s where s.id = i.stage_id), '')`,
      );
    case 'terms':
      // Terms narrow one another, so they are counted beside those already chosen.
      return termChoices(db, query, typed);
    case 'lacking': {
      const columns = LACKABLE.map(
        (name) => sql`count(*) filter (where ${lacking(name)})::int as ${sql.id(name)}`,
      );
      const { where } = await asked(db, rest);
      const { rows } = await sql<Record<string, number>>`select ${sql.join(columns)} from ${FROM}
        where ${where}`.execute(db);
      return LACKABLE.map((value) => ({ value, count: rows[0]?.[value] ?? 0 }));
    }
    case 'accession':
      return grouped(
        db,
        rest,
        sql`left(i.number, length(i.number) - position('.' in reverse(i.number)))`,
      );
    case 'collection':
      return collectionChoices(db, rest);
    case 'words':
    case 'number':
      return [];
  }
}

async function collectionChoices(db: Kysely<Database>, query: Query): Promise<Choice[]> {
  const { where } = await asked(db, query);
  const { rows } = await sql<Choice>`select c.name as value, count(*)::int as count from ${FROM}
    join collection_item ci on ci.item_id = i.id join collection c on c.id = ci.collection_id and c.deleted_at is null
    where ${where} group by 1 order by 1`.execute(db);
  return rows;
}

async function folderChoices(db: Kysely<Database>, query: Query): Promise<Choice[]> {
  const nodes = await holdings(db, query);
  return nodes.map(({ place, path, count }) => ({
    value: path ? `${place}/${path}` : place,
    count,
    under:
      path === ''
        ? null
        : path.includes('/')
          ? `${place}/${path.slice(0, path.lastIndexOf('/'))}`
          : place,
  }));
}

/** Every folder of every place with its counts, parents before children. */
export async function holdings(db: Kysely<Database>, query: Query): Promise<FolderNode[]> {
  const { where } = await asked(db, query);
  const { rows } = await sql<FolderNode>`
    with found as (
      select f.folder_id, count(*)::int as here, min(i.taken_from) as "from", max(i.taken_to) as "to"
      from ${FROM} where ${where} group by 1
    )
    select p.id as place_id, p.name as place, d.path, d.name, coalesce(found.here, 0) as here, found."from", found."to"
    from folder d join place p on p.id = d.place_id left join found on found.folder_id = d.id
    order by lower(p.name), string_to_array(lower(d.path), '/')`.execute(db);
  const nodes = rows.map((row) => ({ ...row, count: row.here }));
  const byPath = new Map(nodes.map((node) => [`${node.placeId}/${node.path}`, node]));
  for (let at = nodes.length - 1; at >= 0; at -= 1) {
    const node = nodes[at]!;
    if (node.path === '') continue;
    const slash = node.path.lastIndexOf('/');
    const parent = byPath.get(`${node.placeId}/${slash < 0 ? '' : node.path.slice(0, slash)}`);
    if (!parent) continue;
    parent.count += node.count;
    parent.from = [parent.from, node.from].filter(Boolean).sort()[0] ?? null;
    parent.to = [parent.to, node.to].filter(Boolean).sort().at(-1) ?? null;
  }
  return nodes;
}
