import { collections } from '#server/collections/collections';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ locals, depends }) => {
  depends('mindful:collections');
  return { collections: await collections(locals.house.db) };
};
