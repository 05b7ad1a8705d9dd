import { z } from 'zod';
import { spotSchema } from '#core/lists/schemas';
import { actorOf, checked, endpoint } from '#server/edge/edge';
import { saveSpot } from '#server/lists/spots';

export const PATCH = endpoint(
  { body: z.object({ entry: spotSchema, seen: spotSchema.optional() }) },
  async (event, { entry, seen }) => {
    const own = checked(z.uuid(), event.params['id']);
    const { done } = await saveSpot(event.locals.house.db, actorOf(event).id, own, entry, seen);
    return { operation: done?.operationId ?? null };
  },
);

export const DELETE = endpoint(async (event) => {
  const own = checked(z.uuid(), event.params['id']);
  const { done } = await saveSpot(event.locals.house.db, actorOf(event).id, own, null);
  return { operation: done?.operationId ?? null };
});
