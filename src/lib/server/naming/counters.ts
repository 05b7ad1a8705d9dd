import { sql, type Kysely, type Transaction } from 'kysely';
import { ArchiveError } from '#core/errors';
import { namedCounters, namedKey, type Counters } from '#core/naming/fill';
import type { Piece } from '#core/naming/piece';
import type { Database } from '../db/schema';

/** Counters that go on under a name, from one batch to the next. */
export interface Standing {
  /** Where those stand that were used before, by name. */
  stand: Record<string, number>;
  /** They step on while names are filled. */
  counters: Counters;
}

/** Where the counters of a pattern stand that go on; those nobody used yet begin where it says. */
export async function readStanding(
  db: Kysely<Database>,
  pieces: readonly Piece[],
): Promise<Standing> {
  const names = [...namedCounters(pieces).keys()];
  const rows = await db
    .selectFrom('namedCounter')
    .select(['name', 'next'])
    .where('name', '=', sql<string>`any(${names}::text[])`)
    .execute();
  return {
    stand: Object.fromEntries(rows.map(({ name, next }) => [name, next])),
    counters: new Map(rows.map(({ name, next }) => [namedKey(name), next])),
  };
}

/**
 * Keep where they stand now.
 * @throws ArchiveError conflict where another batch took numbers meanwhile: none is given twice
 */
export async function keepStanding(
  db: Transaction<Database>,
  pieces: readonly Piece[],
  { stand, counters }: Standing,
): Promise<void> {
  for (const name of namedCounters(pieces).keys()) {
    const next = counters.get(namedKey(name));
    if (next === undefined) continue;
    const before = stand[name];
    const kept =
      before === undefined
        ? await db
            .insertInto('namedCounter')
            .values({ name, next })
            .onConflict((conflict) => conflict.column('name').doNothing())
            .executeTakeFirst()
        : await db
            .updateTable('namedCounter')
            .set({ next })
            .where('name', '=', name)
            .where('next', '=', before)
            .executeTakeFirst();
    const rows = 'numUpdatedRows' in kept ? kept.numUpdatedRows : kept.numInsertedOrUpdatedRows;
    if (rows !== 1n)
      throw new ArchiveError(
        'conflict',
        `Numbers of “${name}” were given meanwhile; look at the names again.`,
      );
  }
}
