import { actorOf } from '#server/edge/edge';
import { firstFields } from '#server/records/card';
import type { LayoutServerLoad } from './$types';

export const load: LayoutServerLoad = async ({ locals, depends }) => {
  depends('mindful:card');
  const actor = actorOf({ locals });
  const stages = await locals.house.db
    .selectFrom('stage')
    .selectAll()
    .orderBy('position')
    .execute();
  return { actor, stages, cardFields: await firstFields(locals.house.db) };
};
