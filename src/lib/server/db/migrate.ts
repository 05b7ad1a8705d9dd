import { sql, type Kysely } from 'kysely';
import type { Database } from './schema';
import { MIGRATIONS } from './migrations';

/** Arbitrary, constant: two processes starting at once migrate one after the other. */
const MIGRATION_LOCK = 4_180_001;

/** Bring the schema up to date; forward only, each migration in its own transaction. */
export async function migrate(db: Kysely<Database>): Promise<void> {
  await db.connection().execute(async (connection) => {
    // Old archives may be large; nobody waits for a page here.
    await sql`set statement_timeout = 0`.execute(connection);
    await sql`select pg_advisory_lock(${sql.lit(MIGRATION_LOCK)})`.execute(connection);
    try {
      await sql`create table if not exists migration (name text primary key, at timestamptz not null default now())`.execute(
        connection,
      );
      const { rows } = await sql<{ name: string }>`select name from migration`.execute(connection);
      const done = new Set(rows.map((row) => row.name));
      for (const { name, statements } of MIGRATIONS) {
        if (done.has(name)) continue;
        await connection.transaction().execute(async (transaction) => {
          await sql.raw(statements).execute(transaction);
          await sql`insert into migration (name) values (${name})`.execute(transaction);
        });
      }
    } finally {
      await sql`select pg_advisory_unlock(${sql.lit(MIGRATION_LOCK)})`.execute(connection);
      await sql`reset statement_timeout`.execute(connection);
    }
  });
}
