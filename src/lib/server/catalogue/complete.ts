import { sql, type Kysely } from 'kysely';
import type { Completion } from '#core/catalogue/tile';
import { formatQuery } from '#core/query/grammar';
import { folderWords } from '#core/query/sentence';
import { EVERYTHING, type Query } from '#core/query/tree';
import type { Database } from '../db/schema';

const clause = (query: Partial<Query>): string => formatQuery({ ...EVERYTHING, ...query });

/** What a few letters may mean: terms, folders, stages, collections; always also the words themselves. */
export async function complete(db: Kysely<Database>, typed: string): Promise<Completion[]> {
  const text = typed.trim();
  if (text === '') return [];
  const like = `%${text.toLowerCase().replace(/[\\%_]/g, '\\$&')}%`;
  const { rows } = await sql<{ field: Completion['field']; a: string; b: string; count: number }>`
    (select 'terms' as field, t.label as a, '' as b, (select count(*)::int from item_term it where it.term_id = t.id) as count
      from term t where lower(t.label) like ${like} order by count desc limit 6)
    union all (select 'folder', p.name, d.path, (select count(*)::int from file f where f.folder_id = d.id and f.role = 'original')
      from folder d join place p on p.id = d.place_id where lower(case when d.path = '' then p.name else d.name end) like ${like} limit 5)
    union all (select 'stages', s.name, '', (select count(*)::int from item i where i.stage_id = s.id) from stage s where lower(s.name) like ${like} limit 3)
    union all (select 'collection', c.name, '', (select count(*)::int from collection_item ci where ci.collection_id = c.id)
      from collection c where c.deleted_at is null and lower(c.name) like ${like} limit 4)`.execute(
    db,
  );
  const found = rows.map(({ field, a, b, count }): Completion => {
    if (field === 'terms') return { field, label: a, clause: clause({ terms: [a] }), count };
    if (field === 'stages') return { field, label: a, clause: clause({ stages: [a] }), count };
    if (field === 'collection')
      return { field, label: a, clause: clause({ collection: a }), count };
    const folder = { place: a, path: b, deep: true };
    return { field, label: folderWords(folder), clause: clause({ folder }), count };
  });
  return [
    {
      field: 'words',
      label: `“${text}” in names and texts`,
      clause: clause({ words: text }),
      count: -1,
    },
    ...found,
  ];
}
