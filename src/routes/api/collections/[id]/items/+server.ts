import { z } from 'zod';
import { pickedSchema } from '#core/query/picked';
import { idsOfPicked } from '#server/catalogue/picked';
import { actorOf, checked, endpoint } from '#server/edge/edge';
import { addItems, moveItems, removeItems } from '#server/collections/collections';
import { seenIds } from '#server/sight/seen';

/** Places in a collection are moved by hand. */
const movedSchema = z.array(z.uuid()).min(1).max(20_000);

export const POST = endpoint(
  { body: z.object({ itemIds: pickedSchema }) },
  async (event, { itemIds }) => {
    return {
      added: await addItems(
        event.locals.house.db,
        actorOf(event),
        checked(z.uuid(), event.params['id']),
        await idsOfPicked(event.locals.house, actorOf(event), itemIds),
      ),
    };
  },
);

export const DELETE = endpoint(
  { body: z.object({ itemIds: pickedSchema }) },
  async (event, { itemIds }) => {
    return {
      removed: await removeItems(
        event.locals.house.db,
        actorOf(event),
        checked(z.uuid(), event.params['id']),
        await idsOfPicked(event.locals.house, actorOf(event), itemIds),
      ),
    };
  },
);

/** Put items before another one, or at the end. */
export const PATCH = endpoint(
  { body: z.object({ itemIds: movedSchema, before: z.uuid().nullable() }) },
  async (event, { itemIds, before }) => {
    await moveItems(
      event.locals.house.db,
      actorOf(event),
      checked(z.uuid(), event.params['id']),
      await seenIds(event.locals.house.db, actorOf(event), itemIds),
      before,
    );
  },
);
