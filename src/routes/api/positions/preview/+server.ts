import { z } from 'zod';
import { namingSchema, NO_NAMES, positionWishSchema } from '#core/positions/wish';
import { pickedSchema } from '#core/query/picked';
import { idsOfPicked } from '#server/catalogue/picked';
import { actorOf, endpoint } from '#server/edge/edge';
import { checkTrack } from '#server/positions/tracks';
import { positionsPreview } from '#server/positions/positions';

const schema = z.object({
  ids: pickedSchema,
  wish: positionWishSchema,
  naming: namingSchema.default(NO_NAMES),
});

/** Where every one of them would be; nothing is changed. */
export const POST = endpoint({ body: schema }, async (event, { ids, wish, naming }) => {
  const { house } = event.locals;
  await checkTrack(house.db, actorOf(event).id, wish);
  const items = await idsOfPicked(house, actorOf(event), ids);
  return positionsPreview(house.db, items, wish, naming);
});
