import { z } from 'zod';
import { actorOf, body, endpoint } from '#server/edge/edge';
import { setHouseRules } from '#server/lists/rules';
import { rulesSchema } from '#server/records/rules';

/** Set the rules of the house. */
export const PUT = endpoint(async (event) => {
  const { rules, seen } = await body(
    event,
    z.object({ rules: rulesSchema, seen: rulesSchema.optional() }),
  );
  await setHouseRules(event.locals.house.db, actorOf(event).id, rules, seen);
});
