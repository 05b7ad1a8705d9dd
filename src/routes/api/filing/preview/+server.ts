import { filingSchema } from '#core/naming/wish';
import { pickedSchema } from '#core/query/picked';
import { idsOfPicked } from '#server/catalogue/picked';
import { actorOf, endpoint } from '#server/edge/edge';
import { filingPreview } from '#server/naming/filing';

const wishSchema = filingSchema.extend({ itemIds: pickedSchema });

/** Where a plan leads; nothing is changed. */
export const POST = endpoint({ body: wishSchema }, async (event, wish) => {
  const { house } = event.locals;
  const viewer = actorOf(event);
  const itemIds = await idsOfPicked(house, viewer, wish.itemIds);
  return filingPreview(house.db, { ...wish, viewer, itemIds, now: house.now().getTime() });
});
