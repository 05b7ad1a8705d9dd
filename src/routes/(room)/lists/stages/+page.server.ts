import { actorOf, page } from '#server/edge/edge';
import { listedStages } from '#server/lists/stages';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, depends }) =>
  page(async () => {
    depends('mindful:lists');
    return { listed: await listedStages(locals.house.db, actorOf({ locals })) };
  });
