import { betterAuth, type BetterAuthOptions } from 'better-auth';
import { kyselyAdapter } from '@better-auth/kysely-adapter';
import { Kysely, PostgresDialect } from 'kysely';
import type { House } from '../house/house';
import { newId } from '../house/ids';
import { readSecrets } from '../house/secrets';
import { isBehindTls } from '../house/settings';
import { withHashedTokens } from './hashedTokens';
import { hashPassword, isPassword } from './passwords';

/** Tells the sign-in library the visitor's address as we know it. */
export const VISITOR_HEADER = 'x-mindful-visitor';

const times = { createdAt: 'created_at', updatedAt: 'updated_at' };

/** Sessions and passwords; signing up is not open: keepers make accounts. */
export function makeAuth(house: House) {
  const { settings } = house;
  const plain = new Kysely<never>({ dialect: new PostgresDialect({ pool: house.pool }) });
  const origin = settings.origin ?? `http://${settings.host}:${settings.port}`;
  return betterAuth({
    database: (options: BetterAuthOptions) =>
      withHashedTokens(kyselyAdapter(plain, { type: 'postgres' })(options)),
    secret: readSecrets(settings.home).session,
    baseURL: origin,
    telemetry: { enabled: false },
    logger: { disabled: true },
    emailAndPassword: {
      enabled: true,
      disableSignUp: true,
      password: {
        hash: hashPassword,
        verify: ({ hash, password }) => isPassword(hash, password),
      },
    },
    user: {
      modelName: 'person',
      fields: { emailVerified: 'email_verified', ...times },
      additionalFields: {
        role: { type: 'string', input: false },
        shutOutAt: { type: 'date', input: false, required: false, fieldName: 'shut_out_at' },
      },
    },
    session: {
      modelName: 'session',
      fields: {
        userId: 'person_id',
        expiresAt: 'expires_at',
        ipAddress: 'ip_address',
        userAgent: 'user_agent',
        ...times,
      },
      expiresIn: 60 * 60 * 24 * 14,
      cookieCache: { enabled: false },
    },
    account: {
      modelName: 'account',
      fields: {
        userId: 'person_id',
        accountId: 'account_id',
        providerId: 'provider_id',
        accessToken: 'access_token',
        refreshToken: 'refresh_token',
        idToken: 'id_token',
        accessTokenExpiresAt: 'access_token_expires_at',
        refreshTokenExpiresAt: 'refresh_token_expires_at',
        ...times,
      },
    },
    verification: {
      modelName: 'verification',
      fields: { expiresAt: 'expires_at', ...times },
    },
    advanced: {
      cookiePrefix: 'mindful',
      useSecureCookies: isBehindTls(settings),
      database: { generateId: newId },
      // The one header it reads is ours alone: the sign-in page sets it.
      ipAddress: { ipAddressHeaders: [VISITOR_HEADER] },
    },
  });
}

export type Auth = ReturnType<typeof makeAuth>;
