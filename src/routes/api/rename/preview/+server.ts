import { z } from 'zod';
import { pickedSchema } from '#core/query/picked';
import { idsOfPicked } from '#server/catalogue/picked';
import { actorOf, body, endpoint } from '#server/edge/edge';
import { renamePreview } from '#server/naming/rename';
import type { RequestHandler } from './$types';

const wishSchema = z.object({
  itemIds: pickedSchema,
  pattern: z.string().max(300),
  tellApart: z.boolean(),
});

export const POST: RequestHandler = endpoint(async (event) => {
  const { itemIds, ...wish } = await body(event, wishSchema);
  const ids = await idsOfPicked(event.locals.house, actorOf(event), itemIds);
  return renamePreview(event.locals.house.db, { ...wish, itemIds: ids });
});
