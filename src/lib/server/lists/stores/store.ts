import { sql, type Kysely, type RawBuilder, type Transaction } from 'kysely';
import type { Database } from '../../db/schema';

export type Db = Kysely<Database> | Transaction<Database>;

/** How entries of a kind are kept: read and put whole, however many. */
export interface Store<E> {
  /** By id; those there are none of are left out. */
  read(db: Db, ids: readonly string[]): Promise<Map<string, E>>;
  put(db: Db, entries: ReadonlyMap<string, E>, by: string | null): Promise<void>;
  drop(db: Db, ids: readonly string[]): Promise<void>;
  /** Ids of items that say something of these entries, as a query: their files follow when what is said changes. */
  saying?: (ids: readonly string[]) => RawBuilder<unknown>;
}

export const among = (ids: readonly string[]): RawBuilder<string> => sql`any(${[...ids]}::uuid[])`;
