import { z } from 'zod';
import { namingSchema, NO_NAMES, positionWishSchema } from '#core/positions/wish';
import { pickedSchema } from '#core/query/picked';
import { idsOfPicked } from '#server/catalogue/picked';
import { actorOf, endpoint } from '#server/edge/edge';
import { checkTrack } from '#server/positions/tracks';
import { perform } from '#server/deeds/large';
import { counted } from '#core/text/quantities';

const schema = z.object({
  ids: pickedSchema,
  wish: positionWishSchema,
  naming: namingSchema.default(NO_NAMES),
  fingerprint: z.string().max(100),
});

/** Set positions as they were shown. */
export const POST = endpoint({ body: schema }, async (event, { ids, ...wished }) => {
  const { house } = event.locals;
  const actor = actorOf(event);
  await checkTrack(house.db, actor.id, wished.wish);
  const items = await idsOfPicked(house, actor, ids);
  return perform(
    house,
    actor.id,
    'positions',
    { ids: items, ...wished },
    { size: items.length, title: `Setting positions of ${counted(items.length, 'item')}` },
  );
});
