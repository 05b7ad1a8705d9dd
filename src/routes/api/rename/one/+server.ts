import { z } from 'zod';
import { actorOf, endpoint } from '#server/edge/edge';
import { renameOne } from '#server/naming/rename';

const wishSchema = z.object({
  itemId: z.uuid(),
  name: z.string().max(255),
  /** As it was called when it was looked at. */
  before: z.string().max(1000),
});

/** Another name for one file. */
export const POST = endpoint({ body: wishSchema }, async (event, wish) => {
  const { house } = event.locals;
  const viewer = actorOf(event);
  return {
    operation: await renameOne(house.db, viewer.id, { ...wish, viewer }),
  };
});
