import { sql, type Kysely } from 'kysely';
import { ArchiveError } from '#core/errors';
import { API_SCOPES, type ApiScope } from '#core/api/shapes';
import type { Role } from '#core/people/roles';
import type { Database } from '../db/schema';
import { newId } from '../house/ids';
import { hashToken, newToken } from '../house/tokens';
import type { Actor } from './people';

/** Personal tokens for programs: hashed, scoped, revocable. */
const PREFIX = 'mat_';
const MOST_EACH = 20;
/** Uses are noted no more often than this. */
const NOTE_MS = 60_000;

export interface ApiToken {
  id: string;
  name: string;
  scopes: string[];
  createdAt: Date;
  usedAt: Date | null;
  expiresAt: Date | null;
}

/** Days after which a token ends, as its owner chooses. */
export const TOKEN_DAYS = [30, 90, 365] as const;
export type TokenDays = (typeof TOKEN_DAYS)[number];

const isLiving = sql<boolean>`(expires_at is null or expires_at > now())`;

export async function apiTokensOf(db: Kysely<Database>, personId: string): Promise<ApiToken[]> {
  return db
    .selectFrom('apiToken')
    .select(['id', 'name', 'scopes', 'createdAt', 'usedAt', 'expiresAt'])
    .where('personId', '=', personId)
    .where('revokedAt', 'is', null)
    .where(isLiving)
    .orderBy('createdAt', 'desc')
    .limit(MOST_EACH)
    .execute();
}

/** Make a token. @returns what is shown once and kept nowhere @throws ArchiveError value-refused */
export async function makeApiToken(
  db: Kysely<Database>,
  personId: string,
  name: string,
  scopes: ApiScope[],
  days: TokenDays = 90,
): Promise<string> {
  if ((await apiTokensOf(db, personId)).length >= MOST_EACH)
    throw new ArchiveError('value-refused', `You have ${MOST_EACH} tokens; revoke one first.`);
  const token = `${PREFIX}${newToken()}`;
  await db
    .insertInto('apiToken')
    .values({
      ...{ id: newId(), personId, name, tokenHash: hashToken(token), scopes },
      expiresAt: sql<Date>`now() + make_interval(days => ${days})`,
    })
    .execute();
  return token;
}

/** Let a token in no more. */
export async function revokeApiToken(
  db: Kysely<Database>,
  personId: string,
  id: string,
): Promise<void> {
  await db
    .updateTable('apiToken')
    .set({ revokedAt: new Date() })
    .where('id', '=', id)
    .where('personId', '=', personId)
    .execute();
}

/** All of somebody's tokens end. */
export async function revokeApiTokens(db: Kysely<Database>, personId: string): Promise<void> {
  await db
    .updateTable('apiToken')
    .set({ revokedAt: new Date() })
    .where('personId', '=', personId)
    .where('revokedAt', 'is', null)
    .execute();
}

/** Who comes with a token of these headers; null where there is none that counts. */
export async function bearerOf(
  db: Kysely<Database>,
  headers: Headers,
): Promise<{ actor: Actor; scopes: ApiScope[] } | null> {
  const token = /^Bearer (mat_[\w-]{20,100})$/.exec(headers.get('authorization') ?? '')?.[1];
  if (!token) return null;
  const row = await db
    .selectFrom('apiToken as t')
    .innerJoin('person as p', 'p.id', 't.personId')
    .select(['t.id as tokenId', 't.scopes', 't.usedAt', 'p.id', 'p.name', 'p.email', 'p.role'])
    .where('t.tokenHash', '=', hashToken(token))
    .where('t.revokedAt', 'is', null)
    .where(isLiving)
    .where('p.shutOutAt', 'is', null)
    .executeTakeFirst();
  if (!row) return null;
  if (!row.usedAt || Date.now() - row.usedAt.getTime() > NOTE_MS)
    await db
      .updateTable('apiToken')
      .set({ usedAt: new Date() })
      .where('id', '=', row.tokenId)
      .execute();
  const { id, name, email, role, scopes } = row;
  return {
    actor: { id, name, email, role: role as Role },
    scopes: API_SCOPES.filter((scope) => scopes.includes(scope)),
  };
}

/** Tokens open the doors of the API and no other, each with its scope. @throws ArchiveError not-allowed */
export function checkScope(routeId: string, method: string, scopes: readonly ApiScope[]): void {
  const need: ApiScope = method === 'GET' || method === 'HEAD' ? 'read' : 'describe';
  if (!routeId.startsWith('/api/v1/') || !scopes.includes(need))
    throw new ArchiveError('not-allowed', 'This token does not open this door.');
}
