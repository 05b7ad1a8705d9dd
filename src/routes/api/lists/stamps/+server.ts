import { z } from 'zod';
import { stampSchema } from '#core/lists/schemas';
import { actorOf, endpoint } from '#server/edge/edge';
import { listedStamps, saveStamp } from '#server/lists/stamps';

export const GET = endpoint(({ locals }) => listedStamps(locals.house.db));

export const POST = endpoint(
  { body: z.object({ entry: stampSchema }) },
  async (event, { entry }) => {
    const { id, done } = await saveStamp(event.locals.house.db, actorOf(event).id, null, entry);
    return { id, operation: done?.operationId ?? null };
  },
);
