import { randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname } from 'node:path';
import { z } from 'zod';
import { foldersOf } from './settings';

const secretsSchema = z.object({ database: z.string(), session: z.string() });
export type Secrets = z.infer<typeof secretsSchema>;

/** The generated secrets of this data folder; made on first use, readable by the owner alone. */
export function readSecrets(home: string): Secrets {
  const path = foldersOf(home).secrets;
  if (existsSync(path)) return secretsSchema.parse(JSON.parse(readFileSync(path, 'utf8')));
  const secret = (): string => randomBytes(32).toString('base64url');
  const secrets: Secrets = { database: secret(), session: secret() };
  mkdirSync(dirname(path), { recursive: true });
  writeFileSync(path, JSON.stringify(secrets, null, 2), { mode: 0o600 });
  return secrets;
}
