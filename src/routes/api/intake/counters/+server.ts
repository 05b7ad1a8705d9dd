import { z } from 'zod';
import { body, endpoint } from '#server/edge/edge';
import { resetCounters } from '#server/intake/plan/counters';

/** Let the counters of a pattern begin again in a place. */
export const DELETE = endpoint(async (event) => {
  const { placeId, pattern } = await body(
    event,
    z.object({ placeId: z.uuid(), pattern: z.string().min(1).max(300) }),
  );
  return { reset: await resetCounters(event.locals.house.db, placeId, pattern) };
});
