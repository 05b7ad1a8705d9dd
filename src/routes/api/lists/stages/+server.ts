import { z } from 'zod';
import { stageWishSchema } from '#core/lists/schemas';
import { actorOf, endpoint } from '#server/edge/edge';
import { listedStages, orderStages, saveStage } from '#server/lists/stages';

export const GET = endpoint(({ locals }) => listedStages(locals.house.db, actorOf({ locals })));

/** Make a stage. */
export const POST = endpoint(
  { body: z.object({ entry: stageWishSchema }) },
  async (event, { entry }) => {
    const done = await saveStage(event.locals.house.db, actorOf(event).id, null, entry);
    return { operation: done?.operationId ?? null };
  },
);

/** Put the stages into another order. */
export const PUT = endpoint(
  { body: z.object({ ids: z.array(z.uuid()).max(1000) }) },
  async (event, { ids }) => {
    const done = await orderStages(event.locals.house.db, actorOf(event).id, ids);
    return { operation: done?.operationId ?? null };
  },
);
