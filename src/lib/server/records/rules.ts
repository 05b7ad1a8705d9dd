import { sql, type Kysely } from 'kysely';
import { z } from 'zod';
import { ArchiveError } from '#core/errors';
import { FIELD_KEYS, FIELDS, type FieldKey } from '#core/records/fields';
import { MOST_ALLOWED, MOST_RULES, mayAllow, type HouseRule } from '#core/records/rules';
import { regexOfMask } from '#core/text/mask';
import type { Database } from '../db/schema';
import { notify } from '../live/notify';
import { isHeld } from '../sight/seen';

/** Where they are kept: with the labels of their fields, by which items are found and counted. */
const KEY = 'rules';

export const rulesSchema = z
  .array(
    z.object({
      field: z.enum(FIELD_KEYS as [FieldKey, ...FieldKey[]]),
      required: z.boolean(),
      allowed: z.array(z.string().trim().min(1).max(500)).max(MOST_ALLOWED),
      like: z.string().trim().max(200).default(''),
    }),
  )
  .max(MOST_RULES);

export async function houseRules(db: Kysely<Database>): Promise<HouseRule[]> {
  const row = await db
    .selectFrom('setting')
    .select('value')
    .where('key', '=', KEY)
    .executeTakeFirst();
  const parsed = rulesSchema.safeParse(row?.value);
  return parsed.success ? parsed.data : [];
}

/**
 * Set the rules of the house; every item is counted by them anew.
 * @throws ArchiveError value-refused where a field is named twice or asks for nothing
 */
export async function setHouseRules(db: Kysely<Database>, rules: HouseRule[]): Promise<void> {
  if (new Set(rules.map(({ field }) => field)).size < rules.length)
    throw new ArchiveError('value-refused', 'A field stands there twice.');
  for (const { field, required, allowed, like } of rules) {
    const { label } = FIELDS[field];
    if (!required && allowed.length === 0 && like === '')
      throw new ArchiveError('value-refused', `The rule for ${label} asks for nothing.`);
    if ((allowed.length > 0 || like !== '') && !mayAllow(field))
      throw new ArchiveError('value-refused', `${label} has values of its own.`);
  }
  const value = JSON.stringify(
    rules.map((rule) => ({
      ...rule,
      label: FIELDS[rule.field].label,
      // The database tells who breaks it by the same.
      regex: rule.like === '' ? '' : regexOfMask(rule.like),
    })),
  );
  await db.transaction().execute(async (transaction) => {
    await transaction
      .insertInto('setting')
      .values({ key: KEY, value })
      .onConflict((conflict) => conflict.column('key').doUpdateSet({ value }))
      .execute();
    await sql`insert into change_log (kind, subject) select 'item', id from item where ${isHeld('item')}`.execute(
      transaction,
    );
    await notify(transaction, { about: 'lists' });
    await notify(transaction, { about: 'items', ids: [] });
  });
}
