import { sql, type Kysely } from 'kysely';
import type { Completion } from '#core/catalogue/tile';
import { formatQuery } from '#core/query/grammar';
import { folderWords } from '#core/query/sentence';
import { EVERYTHING, type Query } from '#core/query/tree';
import type { Database } from '../db/schema';
import { countOf } from './find';

type Named = Pick<Completion, 'field' | 'label'> & { query: Partial<Query> };

/** Terms, folders, stages and collections whose names hold some letters. */
async function named(db: Kysely<Database>, text: string): Promise<Named[]> {
  const like = `%${text.toLowerCase().replace(/[\\%_]/g, '\\$&')}%`;
  const { rows } = await sql<{ field: Completion['field']; a: string; b: string }>`
    (select 'terms' as field, t.label as a, '' as b from term t where lower(t.label) like ${like}
      order by (select count(*) from item_term it where it.term_id = t.id) desc, 2 limit 6)
    union all (select 'folder', p.name, d.path from folder d join place p on p.id = d.place_id
      where lower(case when d.path = '' then p.name else d.name end) like ${like} order by 2, 3 limit 5)
    union all (select 'stages', s.name, '' from stage s where lower(s.name) like ${like} order by 2 limit 3)
    union all (select 'collection', c.name, '' from collection c
      where c.deleted_at is null and lower(c.name) like ${like} order by 2 limit 4)`.execute(db);
  return rows.map(({ field, a, b }): Named => {
    if (field === 'terms') return { field, label: a, query: { terms: [a] } };
    if (field === 'stages') return { field, label: a, query: { stages: [a] } };
    if (field === 'collection') return { field, label: a, query: { collection: a } };
    const folder = { place: a, path: b, deep: true };
    return { field, label: folderWords(folder), query: { folder } };
  });
}

/**
 * What a few letters may mean: terms, folders, stages, collections, each with what choosing it finds; always also
 * the words themselves.
 */
export async function complete(db: Kysely<Database>, typed: string): Promise<Completion[]> {
  const text = typed.trim();
  if (text === '') return [];
  const found = (await named(db, text)).map(async ({ field, label, query }) => {
    const whole = { ...EVERYTHING, ...query };
    return { field, label, clause: formatQuery(whole), count: await countOf(db, whole) };
  });
  return [
    {
      field: 'words',
      label: `“${text}” in names and texts`,
      clause: formatQuery({ ...EVERYTHING, words: text }),
      count: -1,
    },
    ...(await Promise.all(found)),
  ];
}
