import { z } from 'zod';
import { spotSchema } from '#core/lists/schemas';
import { actorOf, endpoint } from '#server/edge/edge';
import { listedSpots, saveSpot } from '#server/lists/spots';

export const GET = endpoint(({ locals }) => listedSpots(locals.house.db));

export const POST = endpoint(
  { body: z.object({ entry: spotSchema }) },
  async (event, { entry }) => {
    const { id, done } = await saveSpot(event.locals.house.db, actorOf(event).id, null, entry);
    return { id, operation: done?.operationId ?? null };
  },
);
