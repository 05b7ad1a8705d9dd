import { sql, type Transaction } from 'kysely';
import type { Database } from '../db/schema';
import type { EntryChange } from './journal';
import { isHeld } from '../sight/seen';

/** Standing collections that speak of an entry speak of the one it was merged into; what people searched last does, too. */
export async function speakOfOther(
  db: Transaction<Database>,
  ids: readonly string[],
  into: string,
): Promise<EntryChange[]> {
  const replaced = (json: string): string =>
    ids.reduce((text, id) => text.replaceAll(`#${id}`, `#${into}`), json);
  const like = sql<boolean>`query::text like any(${ids.map((id) => `%#${id}%`)}::text[])`;
  const rows = await db
    .selectFrom('collection')
    .select(['id', 'name', 'note', 'query', 'parentId'])
    .where(like)
    .where(isHeld('collection'))
    .execute();
  for (const id of ids)
    await sql`update remembered set value = replace(value::text, ${`#${id}`}, ${`#${into}`})::jsonb
      where key = 'recent' and value::text like ${`%#${id}%`}`.execute(db);
  return rows.map(({ id, ...entry }) => ({
    list: 'collection',
    id,
    before: entry,
    after: { ...entry, query: JSON.parse(replaced(JSON.stringify(entry.query))) as object },
  }));
}

/** How many standing collections speak of an entry. */
export async function timesSpoken(db: Transaction<Database>, id: string): Promise<number> {
  const { count } = await db
    .selectFrom('collection')
    .select(sql<number>`count(*)::int`.as('count'))
    .where(isHeld('collection'))
    .where(sql<boolean>`query::text like ${`%#${id}%`}`)
    .executeTakeFirstOrThrow();
  return count;
}
