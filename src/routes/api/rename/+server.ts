import { z } from 'zod';
import { pickedSchema } from '#core/query/picked';
import { idsOfPicked } from '#server/catalogue/picked';
import { actorOf, body, endpoint } from '#server/edge/edge';
import { startRename } from '#server/naming/rename';
import type { RequestHandler } from './$types';

const wishSchema = z.object({
  itemIds: pickedSchema,
  pattern: z.string().min(1).max(300),
  tellApart: z.boolean(),
  fingerprint: z.string().max(100),
});

export const POST: RequestHandler = endpoint(async (event) => {
  const { itemIds, ...wish } = await body(event, wishSchema);
  const { house } = event.locals;
  const ids = await idsOfPicked(house, actorOf(event), itemIds);
  return { operation: await startRename(house.db, actorOf(event).id, { ...wish, itemIds: ids }) };
});
