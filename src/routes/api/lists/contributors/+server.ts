import { z } from 'zod';
import { contributorSchema } from '#core/lists/schemas';
import { actorOf, endpoint } from '#server/edge/edge';
import { listedContributors, saveContributor, unlistedCreators } from '#server/lists/contributors';

export const GET = endpoint(async ({ locals }) => ({
  contributors: await listedContributors(locals.house.db, actorOf({ locals })),
  unlisted: await unlistedCreators(locals.house.db, actorOf({ locals })),
}));

export const POST = endpoint(
  { body: z.object({ entry: contributorSchema, follow: z.boolean().default(true) }) },
  async (event, { entry, follow }) => {
    const { id, done } = await saveContributor(
      event.locals.house.db,
      actorOf(event).id,
      null,
      entry,
      {
        follow,
      },
    );
    return { id, operation: done?.operationId ?? null, items: done?.items ?? 0 };
  },
);
