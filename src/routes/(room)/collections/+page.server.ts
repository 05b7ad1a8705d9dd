import { keptCollections } from '#server/collections/kept';
import { actorOf } from '#server/edge/edge';
import { sequences } from '#server/sequences/sequences';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ locals, depends }) => {
  depends('mindful:collections');
  const actor = actorOf({ locals });
  const [collections, made] = await Promise.all([
    keptCollections(locals.house, actor),
    sequences(locals.house.db, actor),
  ]);
  return { collections, sequences: made };
};
