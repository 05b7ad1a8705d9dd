import { z } from 'zod';
import { pickedSchema } from '#core/query/picked';
import { idsOfPicked } from '#server/catalogue/picked';
import { actorOf, endpoint } from '#server/edge/edge';
import { emptyWastebasket, letGo } from '#server/wastebasket/wastebasket';

const wishSchema = z.object({ ids: pickedSchema, fingerprint: z.string().max(100) });
const emptySchema = z.object({ operation: z.uuid().nullable() });

/** Put items into the wastebasket. */
export const POST = endpoint({ body: wishSchema }, async (event, { ids, fingerprint }) => {
  const { house } = event.locals;
  const actor = actorOf(event);
  const items = await idsOfPicked(house, actor, ids);
  return { operation: await letGo(house.db, actor.id, items, fingerprint) };
});

/** Remove for good what lies in it, or what one step put there. */
export const DELETE = endpoint({ body: emptySchema }, async (event, { operation }) => {
  return emptyWastebasket(event.locals.house, actorOf(event).id, operation);
});
