import { actorOf } from '#server/edge/edge';
import { firstFields } from '#server/records/card';
import { houseRules } from '#server/records/rules';
import type { LayoutServerLoad } from './$types';

export const load: LayoutServerLoad = async ({ locals, depends }) => {
  depends('mindful:card');
  const actor = actorOf({ locals });
  const stages = await locals.house.db
    .selectFrom('stage')
    .selectAll()
    .orderBy('position')
    .execute();
  const [cardFields, rules] = await Promise.all([
    firstFields(locals.house.db),
    houseRules(locals.house.db),
  ]);
  return { actor, stages, cardFields, rules };
};
