import { z } from 'zod';
import { actorOf, endpoint } from '#server/edge/edge';
import { seenId } from '#server/sight/seen';
import { termsNear } from '#server/terms/terms';

/** Terms an item's neighbours in time and folder have. */
export const GET = endpoint(
  { query: z.object({ item: z.uuid() }) },
  async ({ locals }, { item }) => {
    await seenId(locals.house.db, actorOf({ locals }), item);
    return termsNear(locals.house.db, item);
  },
);
