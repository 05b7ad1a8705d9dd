import { sql, type Kysely } from 'kysely';
import { ArchiveError } from '#core/errors';
import type { Database } from '../db/schema';
import { hashToken } from '../house/tokens';

/**
 * Passwords are tried a few times, not thousands. Tries are counted before a password is looked at, in one
 * statement each, so that forty at once count as forty. Three counts matter:
 * - an account from one address (or one known device): after some it waits, then it is closed for a while;
 * - an account from everywhere: after many, only devices its owner signed in with before are let try;
 * - an address: after many it is slowed, never closed. Others behind it may sign in, whatever names are made up.
 */
const WINDOW_MINUTES = 15;
const FREE_TRIES = 3;
const CLOSED_AFTER = 10;
const STRANGERS_CLOSED_AFTER = 60;
const ADDRESS_SLOWED_AFTER = 60;
const LONGEST_WAIT_MS = 4000;
const ADDRESS_WAIT_MS = 1500;

/** What a password or passphrase is tried for. */
export interface Trying {
  /** Sign-in, a new password, a room's passphrase: counted apart. */
  what: 'sign-in' | 'password' | 'passphrase';
  /** Whose: an e-mail address, a person's id, a room's id. */
  account: string;
  /** Where from: the visitor's network address. */
  address: string;
  /** The device is one this account was used on before. */
  device?: string | null;
}

const keysOf = ({ what, account, address, device }: Trying) => ({
  from: hashToken(JSON.stringify([what, account, device ? `device ${device}` : address])),
  everywhere: hashToken(JSON.stringify([what, account])),
  address: hashToken(JSON.stringify([what, '', address])),
});

/** Count one more. @returns how many there were within the window, this one included */
async function count(db: Kysely<Database>, key: string): Promise<number> {
  const { rows } = await sql<{ tries: number }>`
    insert into try_count as t (key, tries) values (${key}, 1)
    on conflict (key) do update set
      tries = case when t.since < now() - make_interval(mins => ${WINDOW_MINUTES}) then 1 else t.tries + 1 end,
      since = case when t.since < now() - make_interval(mins => ${WINDOW_MINUTES}) then now() else t.since end
    returning tries`.execute(db);
  return rows[0]!.tries;
}

const pause = (milliseconds: number): Promise<void> =>
  new Promise((resolve) => setTimeout(resolve, milliseconds));

/**
 * Count a try and let it wait; call it before the password is looked at.
 * @throws ArchiveError too-many-tries
 */
export async function beginTry(db: Kysely<Database>, trying: Trying): Promise<void> {
  const keys = keysOf(trying);
  const closed = new ArchiveError(
    'too-many-tries',
    `Too many wrong passwords. Try again in ${WINDOW_MINUTES} minutes.`,
  );
  const tries = await count(db, keys.from);
  if (tries > CLOSED_AFTER) throw closed;
  if (!trying.device && (await count(db, keys.everywhere)) > STRANGERS_CLOSED_AFTER) throw closed;
  const fromAddress = trying.device ? 0 : await count(db, keys.address);
  const slowed = fromAddress > ADDRESS_SLOWED_AFTER ? ADDRESS_WAIT_MS : 0;
  const wait = tries > FREE_TRIES ? 250 * 2 ** (tries - FREE_TRIES) : 0;
  if (wait + slowed > 0) await pause(Math.min(LONGEST_WAIT_MS, wait + slowed));
}

/** A right password forgets the wrong ones before it, from this place and of this account. */
export async function forgetTries(db: Kysely<Database>, trying: Trying): Promise<void> {
  const { from, everywhere } = keysOf(trying);
  await db
    .deleteFrom('tryCount')
    .where((where) =>
      where.or([
        where('key', 'in', [from, everywhere]),
        where('since', '<', sql<Date>`now() - interval '1 hour'`),
      ]),
    )
    .execute();
}
