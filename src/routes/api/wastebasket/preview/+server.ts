import { z } from 'zod';
import { pickedSchema } from '#core/query/picked';
import { idsOfPicked } from '#server/catalogue/picked';
import { actorOf, endpoint } from '#server/edge/edge';
import { lettingGo } from '#server/wastebasket/wastebasket';

/** What would go and what stays; nothing is changed. */
export const POST = endpoint({ body: z.object({ ids: pickedSchema }) }, async (event, { ids }) => {
  const { house } = event.locals;
  return lettingGo(house.db, await idsOfPicked(house, actorOf(event), ids));
});
