import { keptCollections } from '#server/collections/kept';
import { actorOf } from '#server/edge/edge';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ locals, depends }) => {
  depends('mindful:collections');
  return { collections: await keptCollections(locals.house, actorOf({ locals })) };
};
