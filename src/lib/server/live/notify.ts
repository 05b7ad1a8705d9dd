import { sql, type Kysely } from 'kysely';
import type { LiveMessage } from '#core/live/messages';
import type { Database } from '../db/schema';

/** Messages of the archive: those for windows, and one that is never told to them. */
export type Message =
  | LiveMessage
  /** Ended sessions: one, or with null all of a person. */
  | { about: 'session'; person: string; session: string | null };

/** A message of PostgreSQL holds 8,000 bytes; beyond this many ids or fields the message says "many". */
const MOST_IDS = 150;
const MOST_FIELDS = 40;
export const CHANNEL = 'mindful';

const few = (list: string[], most: number): string[] => (list.length > most ? [] : list);

/** Tell every window; inside a transaction it goes out with the commit. */
export async function notify(db: Kysely<Database>, message: Message): Promise<void> {
  const told = 'ids' in message ? { ...message, ids: few(message.ids, MOST_IDS) } : message;
  await sql`select pg_notify(${CHANNEL}, ${JSON.stringify(told)})`.execute(db);
}

/**
 * Tell that items changed.
 * @param ids none: nothing is told; `many`: more than are named
 * @param fields keys of the registry's fields; none: anything of them
 */
export async function notifyItems(
  db: Kysely<Database>,
  ids: readonly string[] | 'many',
  fields: readonly string[] = [],
  operation: string | null = null,
): Promise<void> {
  if (ids.length === 0) return;
  const told = ids === 'many' ? [] : [...new Set(ids)];
  await notify(db, {
    about: 'items',
    ids: told,
    fields: few([...new Set(fields)], MOST_FIELDS),
    operation,
  });
}
