import type { Kysely, Transaction } from 'kysely';
import type { Counters } from '#core/naming/fill';
import type { Database } from '../../db/schema';

type Db = Kysely<Database> | Transaction<Database>;

/** Where the counters of a pattern stand in a place after the accessions before. */
export async function readCounters(db: Db, placeId: string, pattern: string): Promise<Counters> {
  const rows = await db
    .selectFrom('counter')
    .select(['scope', 'next'])
    .where('placeId', '=', placeId)
    .where('pattern', '=', pattern)
    .execute();
  return new Map(rows.map(({ scope, next }) => [fromRow(scope), next]));
}

/** Keep where they stand now. */
export async function keepCounters(
  db: Db,
  placeId: string,
  pattern: string,
  counters: Counters,
): Promise<void> {
  for (const [scope, next] of counters)
    await db
      .insertInto('counter')
      .values({ placeId, pattern, scope: toRow(scope), next })
      .onConflict((conflict) =>
        conflict.columns(['placeId', 'pattern', 'scope']).doUpdateSet({ next }),
      )
      .execute();
}

/** Let the counters of a pattern begin again. @returns how many stood somewhere */
export async function resetCounters(db: Db, placeId: string, pattern: string): Promise<number> {
  const { numDeletedRows } = await db
    .deleteFrom('counter')
    .where('placeId', '=', placeId)
    .where('pattern', '=', pattern)
    .executeTakeFirst();
  return Number(numDeletedRows);
}

/** PostgreSQL's text holds no zero byte, which parts the scope from its value. */
const toRow = (scope: string): string => scope.replaceAll('\0', '\u001f');
const fromRow = (scope: string): string => scope.replaceAll('\u001f', '\0');
