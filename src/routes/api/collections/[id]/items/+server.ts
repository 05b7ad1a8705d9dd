import { z } from 'zod';
import { actorOf, body, checked, endpoint } from '#server/edge/edge';
import { addItems, moveItems, removeItems } from '#server/collections/collections';
import type { RequestHandler } from './$types';

const idsSchema = z.array(z.uuid()).min(1).max(20_000);

export const POST: RequestHandler = endpoint(async (event) => {
  const { itemIds } = await body(event, z.object({ itemIds: idsSchema }));
  return {
    added: await addItems(
      event.locals.house.db,
      actorOf(event),
      checked(z.uuid(), event.params['id']),
      itemIds,
    ),
  };
});

export const DELETE: RequestHandler = endpoint(async (event) => {
  const { itemIds } = await body(event, z.object({ itemIds: idsSchema }));
  return {
    removed: await removeItems(
      event.locals.house.db,
      actorOf(event),
      checked(z.uuid(), event.params['id']),
      itemIds,
    ),
  };
});

/** Put items before another one, or at the end. */
export const PATCH: RequestHandler = endpoint(async (event) => {
  const { itemIds, before } = await body(
    event,
    z.object({ itemIds: idsSchema, before: z.uuid().nullable() }),
  );
  await moveItems(
    event.locals.house.db,
    actorOf(event),
    checked(z.uuid(), event.params['id']),
    itemIds,
    before,
  );
});
