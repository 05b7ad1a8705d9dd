import type { Kysely } from 'kysely';
import { z } from 'zod';
import { ArchiveError } from '#core/errors';
import { ROLES, type Role } from '#core/people/roles';
import type { Database } from '../db/schema';
import { newId } from '../house/ids';
import { hashPassword } from './auth';

export const SHORTEST_PASSWORD = 10;

export const newPersonSchema = z.object({
  name: z.string().trim().min(1, 'a name is needed').max(200),
  email: z.email('this is no e-mail address').transform((email) => email.toLowerCase()),
  password: z
    .string()
    .min(SHORTEST_PASSWORD, `a password has at least ${SHORTEST_PASSWORD} characters`)
    .max(200),
  role: z.enum(ROLES),
});
export type NewPerson = z.infer<typeof newPersonSchema>;

/** Who acts: a person with a role. */
export interface Actor {
  id: string;
  name: string;
  email: string;
  role: Role;
}

/** Make an account. @throws ArchiveError conflict where the address is in use */
export async function addPerson(db: Kysely<Database>, person: NewPerson): Promise<string> {
  const id = newId();
  const password = await hashPassword(person.password);
  await db.transaction().execute(async (transaction) => {
    const added = await transaction
      .insertInto('person')
      .values({ id, name: person.name, email: person.email, role: person.role, image: null })
      .onConflict((conflict) => conflict.column('email').doNothing())
      .returning('id')
      .executeTakeFirst();
    if (!added)
      throw new ArchiveError('conflict', `There is an account for ${person.email} already.`);
    await transaction
      .insertInto('account' as never)
      .values({
        id: newId(),
        personId: id,
        accountId: id,
        providerId: 'credential',
        password,
      } as never)
      .execute();
  });
  return id;
}

/** Make the very first keeper. @throws ArchiveError conflict where people are there already */
export async function addFirstKeeper(
  db: Kysely<Database>,
  person: Omit<NewPerson, 'role'>,
): Promise<string> {
  if (await hasPeople(db))
    throw new ArchiveError('conflict', 'This archive has its keeper already; sign in.');
  return addPerson(db, { ...person, role: 'keeper' });
}

export async function hasPeople(db: Kysely<Database>): Promise<boolean> {
  return (await db.selectFrom('person').select('id').limit(1).executeTakeFirst()) !== undefined;
}

export interface SessionLine {
  id: string;
  userAgent: string;
  address: string;
  since: Date;
  isThis: boolean;
}

/** Where a person is signed in. */
export async function sessionsOf(
  db: Kysely<Database>,
  personId: string,
  token: string,
): Promise<SessionLine[]> {
  const rows = await db
    .selectFrom('session')
    .selectAll()
    .where('personId', '=', personId)
    .where('expiresAt', '>', new Date())
    .orderBy('createdAt', 'desc')
    .execute();
  return rows.map((row) => ({
    id: row.id,
    userAgent: row.userAgent ?? '',
    address: row.ipAddress ?? '',
    since: row.createdAt,
    isThis: row.token === token,
  }));
}

/** End one session of a person; at once, for the next request finds no session. */
export async function revokeSession(
  db: Kysely<Database>,
  personId: string,
  sessionId: string,
): Promise<void> {
  await db
    .deleteFrom('session')
    .where('id', '=', sessionId)
    .where('personId', '=', personId)
    .execute();
}
