import { sql } from 'kysely';
import { expect, it } from 'vitest';
import { inColumns } from '#server/db/columns';
import { useArchive } from '../support/archive';

const archive = useArchive({ worker: false });
const db = () => archive.house.db;

it('rows come as columns, each value as it is, in the order asked for', async () => {
  await db()
    .insertInto('place')
    .values([
      { id: '00000000-0000-7000-8000-000000000001', name: 'Zürich “\\ ”', root: '/a\u{f7ff}\n' },
      { id: '00000000-0000-7000-8000-000000000002', name: 'Ålesund 𝄞', root: '/b', handsOff: true },
    ])
    .execute();
  const query = db()
    .selectFrom('place')
    .select(['id', 'name', 'root', 'handsOff', 'awaySince'])
    .select(sql<number>`9007199254740991::bigint`.as('most'))
    .select(sql<string>`'2026-09-12 06:41:09'::timestamp`.as('takenFrom'))
    .orderBy('name', 'desc');
  const keys = ['id', 'name', 'root', 'handsOff', 'awaySince', 'most', 'takenFrom'] as const;
  const columns = await inColumns(db(), query, keys);
  const rows = await query.execute();
  for (const key of keys) expect(columns[key]).toEqual(rows.map((row) => row[key]));
});

it('of nothing every column is empty', async () => {
  const query = db().selectFrom('item').select(['id', 'title']);
  expect(await inColumns(db(), query, ['id', 'title'])).toEqual({ id: [], title: [] });
});
