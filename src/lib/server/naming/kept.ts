import { sql, type Kysely } from 'kysely';
import { ArchiveError } from '#core/errors';
import { folderPieces } from '#core/naming/fill';
import { parsePattern } from '#core/naming/grammar';
import type { Database } from '../db/schema';
import { newId } from '../house/ids';

/** Patterns that are kept under a name, for names and for folders. */
export type Purpose = 'naming' | 'filing';
export interface KeptPattern {
  id: string;
  name: string;
  pattern: string;
  choices: Record<string, unknown>;
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
  wish: { purpose: Purpose; name: string; pattern: string; choices: Record<string, unknown> },
): Promise<string> {
  const { purpose, pattern } = wish;
  if (purpose === 'filing') folderPieces(pattern);
  else parsePattern(pattern);
  const name = wish.name.trim();
  const choices = JSON.stringify(wish.choices);
  const [{ count }] = (await db
    .selectFrom('keptPattern')
    .select(sql<number>`count(*)::int`.as('count'))
    .where('purpose', '=', purpose)
    .where(sql`lower(name)`, '<>', name.toLowerCase())
    .execute()) as [{ count: number }];
  if (count >= MOST_KEPT)
    throw new ArchiveError('value-refused', `${MOST_KEPT} patterns are kept already; remove one.`);
  const { id } = await db
    .insertInto('keptPattern')
    .values({ id: newId(), purpose, name, pattern, choices, madeBy })
    .onConflict((conflict) =>
      conflict
        .expression(sql`purpose, lower(name)`)
        .doUpdateSet({ name, pattern, choices, madeBy, madeAt: new Date() }),
    )
    .returning('id')
    .executeTakeFirstOrThrow();
  return id;
}

/** @throws ArchiveError not-found */
export async function forgetPattern(db: Kysely<Database>, id: string): Promise<void> {
  const { numDeletedRows } = await db
    .deleteFrom('keptPattern')
    .where('id', '=', id)
    .executeTakeFirst();
  if (numDeletedRows === 0n) throw new ArchiveError('not-found', 'This pattern is not kept.');
}
