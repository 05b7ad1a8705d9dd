import type { Kysely, Transaction } from 'kysely';
import type { Database } from './schema';

/** Run in the caller's transaction where there is one, else in one of its own: all of it, or nothing. */
export const wholly = <T>(
  db: Kysely<Database> | Transaction<Database>,
  run: (transaction: Transaction<Database>) => Promise<T>,
): Promise<T> =>
  db.isTransaction ? run(db as Transaction<Database>) : db.transaction().execute(run);
