import { z } from 'zod';
import { contributorSchema } from '#core/lists/schemas';
import { body, endpoint } from '#server/edge/edge';
import { followPreview } from '#server/lists/contributors';
import type { RequestHandler } from './$types';

/** How many items would follow a contributor who is changed. */
export const POST: RequestHandler = endpoint(async (event) => {
  const { id, entry } = await body(
    event,
    z.object({ id: z.uuid().nullable(), entry: contributorSchema }),
  );
  return followPreview(event.locals.house.db, id, entry);
});
