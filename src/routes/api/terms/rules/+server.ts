import { actorOf, endpoint } from '#server/edge/edge';
import { setTermRules } from '#server/lists/rules';
import { termRulesSchema } from '#server/terms/rules';

/** What the house wants of terms that are given. */
export const PUT = endpoint({ body: termRulesSchema }, async (event, wish) => {
  await setTermRules(event.locals.house.db, actorOf(event).id, wish);
});
