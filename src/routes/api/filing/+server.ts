import { z } from 'zod';
import { filingSchema } from '#core/naming/wish';
import { pickedSchema } from '#core/query/picked';
import { idsOfPicked } from '#server/catalogue/picked';
import { actorOf, endpoint } from '#server/edge/edge';
import { startFiling } from '#server/naming/filing';

const wishSchema = filingSchema.extend({ itemIds: pickedSchema, fingerprint: z.string().max(100) });

/** File by a plan, as it was shown. */
export const POST = endpoint({ body: wishSchema }, async (event, wish) => {
  const { house } = event.locals;
  const viewer = actorOf(event);
  const itemIds = await idsOfPicked(house, viewer, wish.itemIds);
  const now = house.now().getTime();
  return {
    operation: await startFiling(house.db, viewer.id, { ...wish, viewer, itemIds, now }),
  };
});
