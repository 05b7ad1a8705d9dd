import { z } from 'zod';
import { contributorSchema } from '#core/lists/schemas';
import { endpoint } from '#server/edge/edge';
import { followPreview } from '#server/lists/contributors';

/** How many items would follow a contributor who is changed. */
export const POST = endpoint(
  { body: z.object({ id: z.uuid().nullable(), entry: contributorSchema }) },
  async (event, { id, entry }) => {
    return followPreview(event.locals.house.db, id, entry);
  },
);
