import { z } from 'zod';
import { pickedSchema } from '#core/query/picked';
import { idsOfPicked } from '#server/catalogue/picked';
import { actorOf, body, endpoint } from '#server/edge/edge';
import { lettingGo } from '#server/wastebasket/wastebasket';

/** What would go and what stays; nothing is changed. */
export const POST = endpoint(async (event) => {
  const { ids } = await body(event, z.object({ ids: pickedSchema }));
  const { house } = event.locals;
  return lettingGo(house.db, await idsOfPicked(house, actorOf(event), ids));
});
