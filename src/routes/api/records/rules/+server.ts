import { z } from 'zod';
import { actorOf, endpoint } from '#server/edge/edge';
import { setHouseRules } from '#server/lists/rules';
import { rulesSchema } from '#server/records/rules';

/** Set the rules of the house. */
export const PUT = endpoint(
  { body: z.object({ rules: rulesSchema, seen: rulesSchema.optional() }) },
  async (event, { rules, seen }) => {
    await setHouseRules(event.locals.house.db, actorOf(event).id, rules, seen);
  },
);
