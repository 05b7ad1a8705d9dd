import { z } from 'zod';
import type { Kysely } from 'kysely';
import { FIELD_KEYS, type FieldKey } from '#core/records/fields';
import { FIRST_FIELDS, HEAD_FIELDS } from '#core/records/sections';
import type { Database } from '../db/schema';

/** Which fields a team wants first on its record card. */
const KEY = 'card';

const choosable = FIELD_KEYS.filter((key) => !HEAD_FIELDS.includes(key));
export const firstFieldsSchema = z
  .array(z.enum(choosable as [FieldKey, ...FieldKey[]]))
  .max(choosable.length)
  .transform((keys) => [...new Set(keys)]);

export async function firstFields(db: Kysely<Database>): Promise<readonly FieldKey[]> {
  const row = await db
    .selectFrom('setting')
    .select('value')
    .where('key', '=', KEY)
    .executeTakeFirst();
  const parsed = firstFieldsSchema.safeParse(row?.value);
  return parsed.success ? parsed.data : FIRST_FIELDS;
}

export async function chooseFirstFields(db: Kysely<Database>, keys: FieldKey[]): Promise<void> {
  const value = JSON.stringify(keys);
  await db
    .insertInto('setting')
    .values({ key: KEY, value })
    .onConflict((conflict) => conflict.column('key').doUpdateSet({ value }))
    .execute();
}
