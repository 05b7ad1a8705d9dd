import { page } from '#server/edge/edge';
import { listedSpots } from '#server/lists/spots';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, depends }) =>
  page(async () => {
    depends('mindful:lists');
    return { spots: await listedSpots(locals.house.db) };
  });
