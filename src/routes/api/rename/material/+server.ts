import { z } from 'zod';
import { patternSchema } from '#core/naming/wish';
import { pickedSchema } from '#core/query/picked';
import { idsOfPicked } from '#server/catalogue/picked';
import { actorOf, endpoint } from '#server/edge/edge';
import { namingMaterial } from '#server/naming/rename';

const wishSchema = z.object({ itemIds: pickedSchema, pattern: patternSchema });

/** What names of chosen items are filled from, for who looks at them before they are given. */
export const POST = endpoint({ body: wishSchema }, async (event, { itemIds, pattern }) => {
  const { house } = event.locals;
  const viewer = actorOf(event);
  const ids = await idsOfPicked(house, viewer, itemIds);
  return namingMaterial(house.db, viewer, { itemIds: ids, pattern }, house.now().getTime());
});
