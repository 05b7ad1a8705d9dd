import { z } from 'zod';
import { contributorSchema } from '#core/lists/schemas';
import { body, endpoint } from '#server/edge/edge';
import { followPreview } from '#server/lists/contributors';

/** How many items would follow a contributor who is changed. */
export const POST = endpoint(async (event) => {
  const { id, entry } = await body(
    event,
    z.object({ id: z.uuid().nullable(), entry: contributorSchema }),
  );
  return followPreview(event.locals.house.db, id, entry);
});
