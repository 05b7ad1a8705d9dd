import { z } from 'zod';
import { actorOf, endpoint } from '#server/edge/edge';
import { keptPlanSchema, savedPlans, savePlan } from '#server/intake/plan/plans';

export const GET = endpoint(({ locals }) => savedPlans(locals.house.db));

const namedSchema = keptPlanSchema.extend({
  name: z.string().trim().min(1, 'a name is needed').max(120),
});

/** Save a plan; one of the same name is replaced. */
export const POST = endpoint({ body: namedSchema }, async (event, { name, ...kept }) => {
  return { id: await savePlan(event.locals.house.db, actorOf(event).id, name, kept) };
});
