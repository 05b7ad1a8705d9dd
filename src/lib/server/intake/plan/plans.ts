import type { Kysely } from 'kysely';
import { z } from 'zod';
import { MODES, planSchema } from '#core/intake/plan';
import type { Database } from '../../db/schema';
import type { Source } from '#core/intake/facts';
import { newId } from '../../house/ids';
import { changeLists, dropEntry, entryOf } from '../../lists/journal';

/** A plan with where it files and how it brings in. */
export const keptPlanSchema = z.object({
  mode: z.enum(MODES),
  placeId: z.uuid().nullable(),
  plan: planSchema,
});
export type KeptPlan = z.infer<typeof keptPlanSchema>;

export interface NamedPlan extends KeptPlan {
  id: string;
  name: string;
}

/** Saved plans by name. */
export async function savedPlans(db: Kysely<Database>): Promise<NamedPlan[]> {
  const rows = await db
    .selectFrom('intakePlan')
    .select(['id', 'name', 'mode', 'placeId', 'plan'])
    .orderBy('name')
    .execute();
  return rows.map(({ id, name, ...kept }) => ({ id, name, ...keptPlanSchema.parse(kept) }));
}

/** Save a plan under a name; one of that name is replaced. @returns its id */
export async function savePlan(
  db: Kysely<Database>,
  actorId: string | null,
  name: string,
  { mode, placeId, plan }: KeptPlan,
): Promise<string> {
  let id = newId();
  await changeLists(db, actorId, async (transaction) => {
    const same = await transaction
      .selectFrom('intakePlan')
      .select('id')
      .where((where) => where(where.fn('lower', ['name']), '=', name.toLowerCase()))
      .executeTakeFirst();
    if (same) id = same.id;
    const before = same ? await entryOf(transaction, 'plan', id) : null;
    return {
      summary: `${before ? 'Changed' : 'Kept'} the plan of intake “${name}”`,
      entries: [{ list: 'plan', id, before, after: { name, mode, placeId, plan } }],
    };
  });
  return id;
}

/** @throws ArchiveError not-found */
export const forgetPlan = (
  db: Kysely<Database>,
  actorId: string | null,
  id: string,
): Promise<void> =>
  dropEntry(
    db,
    actorId,
    { list: 'plan', id },
    {
      gone: 'This plan is not kept any more.',
      summary: ({ name }) => `Forgot the plan of intake “${name}”`,
    },
  );

const keyOf = ({ kind, name }: Source): string => `intake-plan:${kind}:${name}`.slice(0, 300);

/** Remember the plan last used for a source, for its person. */
export async function rememberPlan(
  db: Kysely<Database>,
  personId: string,
  source: Source,
  kept: KeptPlan,
): Promise<void> {
  const value = JSON.stringify(kept);
  await db
    .insertInto('remembered')
    .values({ personId, key: keyOf(source), value })
    .onConflict((conflict) => conflict.columns(['personId', 'key']).doUpdateSet({ value }))
    .execute();
}

/** The plan last used for a source; null where there was none, or one that fits no more. */
export async function lastPlan(
  db: Kysely<Database>,
  personId: string,
  source: Source,
): Promise<KeptPlan | null> {
  const row = await db
    .selectFrom('remembered')
    .select('value')
    .where('personId', '=', personId)
    .where('key', '=', keyOf(source))
    .executeTakeFirst();
  const parsed = keptPlanSchema.safeParse(row?.value);
  return parsed.success ? parsed.data : null;
}
