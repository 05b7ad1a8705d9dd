import { page } from '#server/edge/edge';
import { placeLines } from '#server/watching/manage';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, depends }) =>
  page(async () => {
    depends('mindful:places');
    return { places: await placeLines(locals.house) };
  });
