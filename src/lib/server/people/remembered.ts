import type { Kysely } from 'kysely';
import type { Database } from '../db/schema';

/** Choices a person made before, by their keys. */
export async function rememberedOf(
  db: Kysely<Database>,
  personId: string,
  keys: string[],
): Promise<Record<string, Record<string, unknown> | undefined>> {
  const rows = await db
    .selectFrom('remembered')
    .select(['key', 'value'])
    .where('personId', '=', personId)
    .where('key', 'in', keys)
    .execute();
  return Object.fromEntries(rows.map(({ key, value }) => [key, value as Record<string, unknown>]));
}
