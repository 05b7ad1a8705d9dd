import { sql, type Expression, type Kysely } from 'kysely';
import type { Database } from './schema';

/** Rows as lists, one for each column, all in the same order. */
export type Columns<Row, Key extends keyof Row> = { [K in Key]: Row[K][] };

/**
 * What a query finds, as columns: they come as JSON, which the engine reads at once, in a third of the time that as many
 * rows take. For texts, whole numbers below 2^53, truths, and times without a zone; nothing else survives JSON as it is.
 */
export async function inColumns<Row, Key extends keyof Row & string>(
  db: Kysely<Database>,
  query: Expression<Row>,
  keys: readonly Key[],
): Promise<Columns<Row, Key>> {
  const columns = keys.map((key) => sql`json_agg(found.${sql.ref(key)}) as ${sql.ref(key)}`);
  const { rows } = await sql<Columns<Row, Key>>`
    select ${sql.join(columns)} from (${query}) as found`.execute(db);
  const [row] = rows;
  return Object.fromEntries(keys.map((key) => [key, row?.[key] ?? []])) as Columns<Row, Key>;
}
