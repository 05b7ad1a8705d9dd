import { z } from 'zod';
import { pickedSchema } from '#core/query/picked';
import { idsOfPicked } from '#server/catalogue/picked';
import { actorOf, body, checked, endpoint } from '#server/edge/edge';
import { addItems, moveItems, removeItems } from '#server/collections/collections';
import { seenIds } from '#server/sight/seen';

/** Places in a collection are moved by hand. */
const movedSchema = z.array(z.uuid()).min(1).max(20_000);

export const POST = endpoint(async (event) => {
  const { itemIds } = await body(event, z.object({ itemIds: pickedSchema }));
  return {
    added: await addItems(
      event.locals.house.db,
      actorOf(event),
      checked(z.uuid(), event.params['id']),
      await idsOfPicked(event.locals.house, actorOf(event), itemIds),
    ),
  };
});

export const DELETE = endpoint(async (event) => {
  const { itemIds } = await body(event, z.object({ itemIds: pickedSchema }));
  return {
    removed: await removeItems(
      event.locals.house.db,
      actorOf(event),
      checked(z.uuid(), event.params['id']),
      await idsOfPicked(event.locals.house, actorOf(event), itemIds),
    ),
  };
});

/** Put items before another one, or at the end. */
export const PATCH = endpoint(async (event) => {
  const { itemIds, before } = await body(
    event,
    z.object({ itemIds: movedSchema, before: z.uuid().nullable() }),
  );
  await moveItems(
    event.locals.house.db,
    actorOf(event),
    checked(z.uuid(), event.params['id']),
    await seenIds(event.locals.house.db, actorOf(event), itemIds),
    before,
  );
});
