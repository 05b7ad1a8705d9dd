import { z } from 'zod';
import { stampSchema } from '#core/lists/schemas';
import { actorOf, checked, endpoint } from '#server/edge/edge';
import { saveStamp } from '#server/lists/stamps';

export const PATCH = endpoint(
  { body: z.object({ entry: stampSchema, seen: stampSchema.optional() }) },
  async (event, { entry, seen }) => {
    const own = checked(z.uuid(), event.params['id']);
    const { done } = await saveStamp(event.locals.house.db, actorOf(event).id, own, entry, seen);
    return { operation: done?.operationId ?? null };
  },
);

export const DELETE = endpoint(async (event) => {
  const own = checked(z.uuid(), event.params['id']);
  const { done } = await saveStamp(event.locals.house.db, actorOf(event).id, own, null);
  return { operation: done?.operationId ?? null };
});
