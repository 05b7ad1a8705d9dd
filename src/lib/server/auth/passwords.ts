import { hash, verify } from '@node-rs/argon2';
import pLimit from 'p-limit';

/** Each takes 20 MB and a core for a moment: many at once wait for their turn. */
const atATime = pLimit(2);

/** Argon2id with the library's defaults (19 MiB, 2 passes), the OWASP minimum. */
export const hashPassword = (password: string): Promise<string> => atATime(() => hash(password));

export const isPassword = (hashed: string, password: string): Promise<boolean> =>
  atATime(() => verify(hashed, password));
