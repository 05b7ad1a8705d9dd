import { actorOf } from '#server/edge/edge';
import type { LayoutServerLoad } from './$types';

export const load: LayoutServerLoad = async ({ locals }) => {
  const actor = actorOf({ locals });
  const stages = await locals.house.db
    .selectFrom('stage')
    .selectAll()
    .orderBy('position')
    .execute();
  return { actor, stages };
};
