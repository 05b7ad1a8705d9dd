import { z } from 'zod';
import { namingSchema } from '#core/naming/wish';
import { pickedSchema } from '#core/query/picked';
import { idsOfPicked } from '#server/catalogue/picked';
import { actorOf, body, endpoint } from '#server/edge/edge';
import { startRename } from '#server/naming/rename';
import type { RequestHandler } from './$types';

const wishSchema = namingSchema.extend({
  itemIds: pickedSchema,
  fingerprint: z.string().max(100),
  /** The moment that counted as today where the names were shown, ms. */
  now: z.number().int().optional(),
});

export const POST: RequestHandler = endpoint(async (event) => {
  const wish = await body(event, wishSchema);
  const { house } = event.locals;
  const viewer = actorOf(event);
  const itemIds = await idsOfPicked(house, viewer, wish.itemIds);
  const now = wish.now ?? house.now().getTime();
  return {
    operation: await startRename(house.db, viewer.id, { ...wish, viewer, itemIds, now }),
  };
});
