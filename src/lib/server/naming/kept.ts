import { sql, type Kysely } from 'kysely';
import { ArchiveError } from '#core/errors';
import { folderPieces } from '#core/naming/fill';
import { parsePattern } from '#core/naming/grammar';
import type { Database } from '../db/schema';
import { newId } from '../house/ids';
import { changeLists, dropEntry, entryOf } from '../lists/journal';

/** Patterns that are kept under a name, for names and for folders. */
export type Purpose = 'naming' | 'filing';
export interface KeptPattern {
  id: string;
  name: string;
  pattern: string;
  choices: Record<string, string | boolean>;
}

/** More than a list of names is read for. */
const MOST_KEPT = 200;

export const keptPatterns = (db: Kysely<Database>, purpose: Purpose): Promise<KeptPattern[]> =>
  db
    .selectFrom('keptPattern')
    .select(['id', 'name', 'pattern', 'choices'])
    .where('purpose', '=', purpose)
    .orderBy(sql`lower(name)`)
    .limit(MOST_KEPT)
    .execute();

/** Keep a pattern; one of the same name is replaced. @throws ArchiveError pattern-unclear, value-refused */
export async function keepPattern(
  db: Kysely<Database>,
  madeBy: string | null,
  wish: {
    purpose: Purpose;
    name: string;
    pattern: string;
    choices: Record<string, string | boolean>;
  },
): Promise<string> {
  const { purpose, pattern } = wish;
  if (purpose === 'filing') folderPieces(pattern);
  else parsePattern(pattern);
  const after = { ...wish, name: wish.name.trim() };
  let id = newId();
  await changeLists(db, madeBy, async (transaction) => {
    const all = await keptPatterns(transaction, purpose);
    const same = all.find((one) => one.name.toLowerCase() === after.name.toLowerCase());
    if (!same && all.length >= MOST_KEPT)
      throw new ArchiveError(
        'value-refused',
        `${MOST_KEPT} patterns are kept already; remove one.`,
      );
    if (same) id = same.id;
    const before = same ? await entryOf(transaction, 'pattern', id) : null;
    return {
      summary: `${before ? 'Changed' : 'Kept'} the pattern “${after.name}”`,
      entries: [{ list: 'pattern', id, before, after }],
    };
  });
  return id;
}

/** @throws ArchiveError not-found */
export const forgetPattern = (
  db: Kysely<Database>,
  actorId: string | null,
  id: string,
): Promise<void> =>
  dropEntry(
    db,
    actorId,
    { list: 'pattern', id },
    { gone: 'This pattern is not kept.', summary: ({ name }) => `Forgot the pattern “${name}”` },
  );
