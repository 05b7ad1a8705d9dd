import { z } from 'zod';
import { spotSchema } from '#core/lists/schemas';
import { actorOf, body, endpoint } from '#server/edge/edge';
import { listedSpots, saveSpot } from '#server/lists/spots';

export const GET = endpoint(({ locals }) => listedSpots(locals.house.db));

export const POST = endpoint(async (event) => {
  const { entry } = await body(event, z.object({ entry: spotSchema }));
  const { id, done } = await saveSpot(event.locals.house.db, actorOf(event).id, null, entry);
  return { id, operation: done?.operationId ?? null };
});
