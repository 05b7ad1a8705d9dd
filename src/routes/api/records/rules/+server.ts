import { z } from 'zod';
import { body, endpoint } from '#server/edge/edge';
import { rulesSchema, setHouseRules } from '#server/records/rules';
import type { RequestHandler } from './$types';

/** Set the rules of the house. */
export const PUT: RequestHandler = endpoint(async (event) => {
  const { rules } = await body(event, z.object({ rules: rulesSchema }));
  await setHouseRules(event.locals.house.db, rules);
});
