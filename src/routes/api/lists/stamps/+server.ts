import { z } from 'zod';
import { stampSchema } from '#core/lists/schemas';
import { actorOf, body, endpoint } from '#server/edge/edge';
import { listedStamps, saveStamp } from '#server/lists/stamps';

export const GET = endpoint(({ locals }) => listedStamps(locals.house.db));

export const POST = endpoint(async (event) => {
  const { entry } = await body(event, z.object({ entry: stampSchema }));
  const { id, done } = await saveStamp(event.locals.house.db, actorOf(event).id, null, entry);
  return { id, operation: done?.operationId ?? null };
});
