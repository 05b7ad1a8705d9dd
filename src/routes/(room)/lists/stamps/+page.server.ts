import { page } from '#server/edge/edge';
import { listedStamps } from '#server/lists/stamps';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, depends }) =>
  page(async () => {
    depends('mindful:lists');
    return { stamps: await listedStamps(locals.house.db) };
  });
