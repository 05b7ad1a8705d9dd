import { sql, type Kysely } from 'kysely';
import type { Database } from '../db/schema';

/** What open windows are told; they ask for the rest. */
export type LiveMessage =
  | { about: 'items'; ids: string[] }
  /** The index has taken in what changed before: counts are other ones from now on. */
  | { about: 'counted' }
  | { about: 'job'; id: string }
  | { about: 'scan'; id: string }
  | { about: 'collections' }
  | { about: 'rooms' }
  | { about: 'lists' }
  | { about: 'places' }
  /** Ended sessions: one, or with null all of a person. Never told to windows. */
  | { about: 'session'; person: string; session: string | null };

/** A message of PostgreSQL holds 8,000 bytes; beyond this many ids the message says "many". */
const MOST_IDS = 150;
export const CHANNEL = 'mindful';

/** Tell every window; inside a transaction it goes out with the commit. */
export async function notify(db: Kysely<Database>, message: LiveMessage): Promise<void> {
  const told =
    message.about === 'items' && message.ids.length > MOST_IDS ? { ...message, ids: [] } : message;
  await sql`select pg_notify(${CHANNEL}, ${JSON.stringify(told)})`.execute(db);
}
