import type { Kysely } from 'kysely';
import { z } from 'zod';
import { FIELD_KEYS, type FieldKey } from '#core/records/fields';
import { MOST_ALLOWED, MOST_RULES, type HouseRule } from '#core/records/rules';
import type { Database } from '../db/schema';
import { HOUSE_RULES, settingOf } from '../lists/stores/rules';

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
  const parsed = rulesSchema.safeParse(await settingOf(db, HOUSE_RULES));
  return parsed.success ? parsed.data : [];
}
