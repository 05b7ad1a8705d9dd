import { hash, verify } from '@node-rs/argon2';
import pLimit from 'p-limit';
import { ArchiveError } from '#core/errors';

/** Each takes 20 MB and a core for a moment: they come one by one, so that pages have the other. */
const atATime = pLimit(1);
/** Whoever comes while so many wait is sent away before anything is hashed. */
const MOST_WAITING = 40;

function inTurn<T>(run: () => Promise<T>): Promise<T> {
  if (atATime.pendingCount >= MOST_WAITING)
    throw new ArchiveError(
      'too-many-tries',
      'Very many sign in at this moment; try again in a few seconds.',
      { retryAfter: 5 },
    );
  return atATime(run);
}

/** Argon2id with the library's defaults (19 MiB, 2 passes), the OWASP minimum. */
export const hashPassword = (password: string): Promise<string> => inTurn(() => hash(password));

export const isPassword = (hashed: string, password: string): Promise<boolean> =>
  inTurn(() => verify(hashed, password));
