import { z } from 'zod';
import { actorOf, checked, endpoint } from '#server/edge/edge';
import { seenId } from '#server/sight/seen';
import { termsNear } from '#server/terms/terms';

/** Terms an item's neighbours in time and folder have. */
export const GET = endpoint(async ({ locals, url }) => {
  const id = checked(z.uuid(), url.searchParams.get('item'));
  await seenId(locals.house.db, actorOf({ locals }), id);
  return termsNear(locals.house.db, id);
});
