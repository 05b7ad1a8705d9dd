import { z } from 'zod';
import { contributorSchema } from '#core/lists/schemas';
import { actorOf, checked, endpoint } from '#server/edge/edge';
import { saveContributor } from '#server/lists/contributors';

/** Change a contributor; items and files that said the old follow where that is wished. */
export const PATCH = endpoint(
  {
    body: z.object({
      entry: contributorSchema,
      seen: contributorSchema.optional(),
      follow: z.boolean().default(true),
    }),
  },
  async (event, { entry, seen, follow }) => {
    const own = checked(z.uuid(), event.params['id']);
    const { db } = event.locals.house;
    const { done } = await saveContributor(db, actorOf(event).id, own, entry, { seen, follow });
    return { operation: done?.operationId ?? null, items: done?.items ?? 0 };
  },
);

/** Take them off the list; records that name them stay. */
export const DELETE = endpoint(async (event) => {
  const own = checked(z.uuid(), event.params['id']);
  const { db } = event.locals.house;
  const { done } = await saveContributor(db, actorOf(event).id, own, null, { follow: false });
  return { operation: done?.operationId ?? null };
});
