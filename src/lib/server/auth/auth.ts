import { hash, verify } from '@node-rs/argon2';
import { betterAuth } from 'better-auth';
import type { House } from '../house/house';
import { newId } from '../house/ids';
import { readSecrets } from '../house/secrets';
import { isBehindTls } from '../house/settings';

/** Argon2id with the library's defaults (19 MiB, 2 passes), the OWASP minimum. */
export const hashPassword = (password: string): Promise<string> => hash(password);

const times = { createdAt: 'created_at', updatedAt: 'updated_at' };

/** Sessions and passwords; signing up is not open: keepers make accounts. */
export function makeAuth(house: House) {
  const { settings } = house;
  const origin = settings.origin ?? `http://${settings.host}:${settings.port}`;
  return betterAuth({
    database: house.pool,
    secret: readSecrets(settings.home).session,
    baseURL: origin,
    telemetry: { enabled: false },
    logger: { disabled: true },
    emailAndPassword: {
      enabled: true,
      disableSignUp: true,
      password: {
        hash: hashPassword,
        verify: ({ hash: hashed, password }) => verify(hashed, password),
      },
    },
    user: {
      modelName: 'person',
      fields: { emailVerified: 'email_verified', ...times },
      additionalFields: { role: { type: 'string', input: false } },
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
    },
  });
}

export type Auth = ReturnType<typeof makeAuth>;
