import { actorOf, page } from '#server/edge/edge';
import { listedContributors, unlistedCreators } from '#server/lists/contributors';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, depends }) =>
  page(async () => {
    depends('mindful:lists');
    const { db } = locals.house;
    const [contributors, unlisted] = await Promise.all([
      listedContributors(db, actorOf({ locals })),
      unlistedCreators(db, actorOf({ locals })),
    ]);
    return { contributors, unlisted };
  });
