import { createHash, randomBytes } from 'node:crypto';

/** 256 random bits for an address or a cookie; only its hash is kept. */
export const newToken = (): string => randomBytes(32).toString('base64url');

/** SHA-256 in hex. Tokens are found by their hash, so that timing tells nothing. */
export const hashToken = (token: string): string =>
  createHash('sha256').update(token).digest('hex');
