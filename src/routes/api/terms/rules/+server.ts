import { actorOf, body, endpoint } from '#server/edge/edge';
import { setTermRules } from '#server/lists/rules';
import { termRulesSchema } from '#server/terms/rules';

/** What the house wants of terms that are given. */
export const PUT = endpoint(async (event) => {
  await setTermRules(event.locals.house.db, actorOf(event).id, await body(event, termRulesSchema));
});
