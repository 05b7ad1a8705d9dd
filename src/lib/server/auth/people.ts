import { sql, type Kysely, type Transaction } from 'kysely';
import { z } from 'zod';
import { ArchiveError } from '#core/errors';
import { ROLES, type Role } from '#core/people/roles';
import type { Database } from '../db/schema';
import { newId } from '../house/ids';
import { notify } from '../live/notify';
import { hashPassword } from './passwords';

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

async function insertPerson(
  db: Transaction<Database>,
  person: NewPerson,
  password: string,
): Promise<string> {
  const id = newId();
  const added = await db
    .insertInto('person')
    .values({ id, name: person.name, email: person.email, role: person.role, image: null })
    .onConflict((conflict) => conflict.column('email').doNothing())
    .returning('id')
    .executeTakeFirst();
  if (!added)
    throw new ArchiveError('conflict', `There is an account for ${person.email} already.`);
  const account = { id: newId(), personId: id, accountId: id, providerId: 'credential', password };
  await db
    .insertInto('account' as never)
    .values(account as never)
    .execute();
  return id;
}

/** Make an account. @throws ArchiveError conflict where the address is in use */
export async function addPerson(db: Kysely<Database>, person: NewPerson): Promise<string> {
  const password = await hashPassword(person.password);
  return db.transaction().execute((transaction) => insertPerson(transaction, person, password));
}

/** Arbitrary, constant: of two first visits at once one makes the keeper. */
const FIRST_LOCK = 4_180_004;

/** Make the very first keeper. @throws ArchiveError conflict where people are there already */
export async function addFirstKeeper(
  db: Kysely<Database>,
  person: Omit<NewPerson, 'role'>,
): Promise<string> {
  const taken = new ArchiveError('conflict', 'This archive has its keeper already; sign in.');
  // Hashing takes a moment and memory: nobody makes us do it for nothing.
  if (await hasPeople(db)) throw taken;
  const password = await hashPassword(person.password);
  return db.transaction().execute(async (transaction) => {
    await sql`select pg_advisory_xact_lock(${FIRST_LOCK})`.execute(transaction);
    if (await hasPeople(transaction)) throw taken;
    return insertPerson(transaction, { ...person, role: 'keeper' }, password);
  });
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
  sessionId: string,
): Promise<SessionLine[]> {
  const rows = await db
    .selectFrom('session')
    .selectAll()
    .where('personId', '=', personId)
    .where('expiresAt', '>', new Date())
    .orderBy('createdAt', 'desc')
    .limit(MOST_SESSIONS)
    .execute();
  return rows.map((row) => ({
    id: row.id,
    userAgent: row.userAgent ?? '',
    address: row.ipAddress ?? '',
    since: row.createdAt,
    isThis: row.id === sessionId,
  }));
}

const MOST_SESSIONS = 200;

/** End one session of a person; at once, for the next request finds none and its windows are told nothing more. */
export async function endSession(
  db: Kysely<Database>,
  personId: string,
  sessionId: string,
): Promise<void> {
  await db
    .deleteFrom('session')
    .where('id', '=', sessionId)
    .where('personId', '=', personId)
    .execute();
  await notify(db, { about: 'session', person: personId, session: sessionId });
}

/** End every session of a person but one. */
export async function endOtherSessions(
  db: Kysely<Database>,
  personId: string,
  sessionId: string,
): Promise<void> {
  const ended = await db
    .deleteFrom('session')
    .where('personId', '=', personId)
    .where('id', '<>', sessionId)
    .returning('id')
    .execute();
  for (const { id } of ended) await notify(db, { about: 'session', person: personId, session: id });
}

/**
 * Let a person in no more: sessions, known devices and event streams end at once. What they did stays theirs.
 * @throws ArchiveError conflict where a keeper would shut out themselves
 */
export async function shutOut(db: Kysely<Database>, actorId: string, id: string): Promise<void> {
  if (id === actorId)
    throw new ArchiveError('conflict', 'Nobody shuts themselves out: an archive keeps its keeper.');
  await db.transaction().execute(async (transaction) => {
    const row = await transaction
      .updateTable('person')
      .set({ shutOutAt: new Date() })
      .where('id', '=', id)
      .returning('id')
      .executeTakeFirst();
    if (!row) throw new ArchiveError('not-found', 'There is no such person.');
    await transaction.deleteFrom('session').where('personId', '=', id).execute();
    await transaction.deleteFrom('knownDevice').where('personId', '=', id).execute();
    await notify(transaction, { about: 'session', person: id, session: null });
  });
}

/** Let a person in again; they sign in with the password they had. */
export async function letIn(db: Kysely<Database>, id: string): Promise<void> {
  await db.updateTable('person').set({ shutOutAt: null }).where('id', '=', id).execute();
}
