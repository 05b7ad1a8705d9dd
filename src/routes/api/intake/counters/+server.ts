import { z } from 'zod';
import { endpoint } from '#server/edge/edge';
import { resetCounters } from '#server/intake/plan/counters';

/** Let the counters of a pattern begin again in a place. */
export const DELETE = endpoint(
  { body: z.object({ placeId: z.uuid(), pattern: z.string().min(1).max(300) }) },
  async (event, { placeId, pattern }) => {
    return { reset: await resetCounters(event.locals.house.db, placeId, pattern) };
  },
);
