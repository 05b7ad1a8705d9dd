import { z } from 'zod';
import { namingSchema } from '#core/naming/wish';
import { pickedSchema } from '#core/query/picked';
import { idsOfPicked } from '#server/catalogue/picked';
import { actorOf, endpoint } from '#server/edge/edge';
import { startRename } from '#server/naming/rename';

const wishSchema = namingSchema.extend({
  itemIds: pickedSchema,
  fingerprint: z.string().max(100),
  /** The moment that counted as today where the names were shown, ms. */
  now: z.number().int().optional(),
});

const DAY_MS = 86_400_000;
/** Today is as it was shown, unless that was shown too long ago. */
const todayOf = (shown: number | undefined, now: number): number =>
  shown !== undefined && Math.abs(now - shown) < DAY_MS ? shown : now;

export const POST = endpoint({ body: wishSchema }, async (event, wish) => {
  const { house } = event.locals;
  const viewer = actorOf(event);
  const itemIds = await idsOfPicked(house, viewer, wish.itemIds);
  const now = todayOf(wish.now, house.now().getTime());
  return {
    operation: await startRename(house.db, viewer.id, { ...wish, viewer, itemIds, now }),
  };
});
