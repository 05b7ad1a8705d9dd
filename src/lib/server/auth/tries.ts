import { sql, type Kysely } from 'kysely';
import { ArchiveError } from '#core/errors';
import type { Database } from '../db/schema';
import { newId } from '../house/ids';

/** After this many wrong passwords each further one waits, doubling, then the door closes for a while. */
const FREE_TRIES = 3;
const CLOSED_AFTER = 10;
/** An office shares one address: many people may mistype. */
const ADDRESS_CLOSED_AFTER = 60;
const WINDOW_MINUTES = 15;
const LONGEST_WAIT_MS = 8000;

/**
 * Slow wrong passwords, counted for an account and for an address. Call before checking the password.
 * @throws ArchiveError too-many-tries
 */
export async function slowTries(
  db: Kysely<Database>,
  email: string,
  address: string,
): Promise<void> {
  const counts = await db
    .selectFrom('signInTry')
    .select([
      sql<number>`count(*) filter (where email = ${email})::int`.as('account'),
      sql<number>`count(*) filter (where address = ${address})::int`.as('address'),
    ])
    .where('at', '>', sql<Date>`now() - make_interval(mins => ${WINDOW_MINUTES})`)
    .executeTakeFirstOrThrow();
  const tries = counts.account;
  if (tries >= CLOSED_AFTER || counts.address >= ADDRESS_CLOSED_AFTER)
    throw new ArchiveError(
      'too-many-tries',
      `Too many wrong passwords. Try again in ${WINDOW_MINUTES} minutes.`,
    );
  if (tries < FREE_TRIES) return;
  const wait = Math.min(LONGEST_WAIT_MS, 500 * 2 ** (tries - FREE_TRIES));
  await new Promise((resolve) => setTimeout(resolve, wait));
}

/** Remember a wrong password. */
export async function countTry(
  db: Kysely<Database>,
  email: string,
  address: string,
): Promise<void> {
  await db.insertInto('signInTry').values({ id: newId(), email, address }).execute();
  await db
    .deleteFrom('signInTry')
    .where('at', '<', sql<Date>`now() - interval '1 day'`)
    .execute();
}

/** A right password forgets the wrong ones before it. */
export async function forgetTries(db: Kysely<Database>, email: string): Promise<void> {
  await db.deleteFrom('signInTry').where('email', '=', email).execute();
}
