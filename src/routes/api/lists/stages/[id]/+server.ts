import { z } from 'zod';
import { stageSchema, stageWishSchema } from '#core/lists/schemas';
import { actorOf, checked, endpoint } from '#server/edge/edge';
import { dropStage, mergeStages, saveStage } from '#server/lists/stages';

/** Change a stage: records, files and kept queries follow. */
export const PATCH = endpoint(
  { body: z.object({ entry: stageWishSchema, seen: stageSchema.optional() }) },
  async (event, { entry, seen }) => {
    const id = checked(z.uuid(), event.params['id']);
    const done = await saveStage(event.locals.house.db, actorOf(event).id, id, entry, seen);
    return { operation: done?.operationId ?? null, items: done?.items ?? 0 };
  },
);

/** Merge it into another. */
export const POST = endpoint({ body: z.object({ into: z.uuid() }) }, async (event, { into }) => {
  const id = checked(z.uuid(), event.params['id']);
  const done = await mergeStages(event.locals.house.db, actorOf(event).id, id, into);
  return { operation: done?.operationId ?? null, items: done?.items ?? 0 };
});

/** Take it off the list, where nothing is at it. */
export const DELETE = endpoint(async (event) => {
  const id = checked(z.uuid(), event.params['id']);
  const done = await dropStage(event.locals.house.db, actorOf(event).id, id);
  return { operation: done?.operationId ?? null };
});
