import type { Kysely } from 'kysely';
import type { Database } from '../db/schema';
import { hashToken, newToken } from '../house/tokens';

/** A browser somebody signed in with before: strangers who guess passwords do not lock its owner out there. */
const MOST_EACH = 40;
export const DEVICE_COOKIE = 'mindful_device';
export const DEVICE_DAYS = 400;

/** Whether this browser is known for an account; its name for counting, else null. */
export async function knownDevice(
  db: Kysely<Database>,
  email: string,
  token: string | undefined,
): Promise<string | null> {
  if (!token) return null;
  const row = await db
    .selectFrom('knownDevice as d')
    .innerJoin('person as p', 'p.id', 'd.personId')
    .select('d.tokenHash')
    .where('d.tokenHash', '=', hashToken(token))
    .where('p.email', '=', email)
    .executeTakeFirst();
  return row?.tokenHash ?? null;
}

/** Know this browser from now on. @returns the token it keeps */
export async function rememberDevice(
  db: Kysely<Database>,
  personId: string,
  token: string | undefined,
): Promise<string> {
  const used = { usedAt: new Date() };
  if (token) {
    const row = await db
      .updateTable('knownDevice')
      .set(used)
      .where('tokenHash', '=', hashToken(token))
      .where('personId', '=', personId)
      .returning('tokenHash')
      .executeTakeFirst();
    if (row) return token;
  }
  const fresh = newToken();
  await db
    .insertInto('knownDevice')
    .values({ tokenHash: hashToken(fresh), personId, ...used })
    .execute();
  await db
    .deleteFrom('knownDevice')
    .where('personId', '=', personId)
    .where('tokenHash', 'in', (from) =>
      from
        .selectFrom('knownDevice')
        .select('tokenHash')
        .where('personId', '=', personId)
        .orderBy('usedAt', 'desc')
        .offset(MOST_EACH),
    )
    .execute();
  return fresh;
}

/** After a new password only the browser it was given in stays known. */
export async function forgetOtherDevices(
  db: Kysely<Database>,
  personId: string,
  token: string | undefined,
): Promise<void> {
  await db
    .deleteFrom('knownDevice')
    .where('personId', '=', personId)
    .where('tokenHash', '<>', token ? hashToken(token) : '')
    .execute();
}
