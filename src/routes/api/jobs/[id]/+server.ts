import { z } from 'zod';
import { actorOf, checked, endpoint } from '#server/edge/edge';
import { wishJob } from '#server/jobs/queue';

/** Pause, go on, cancel. */
export const POST = endpoint(
  { body: z.object({ wish: z.enum(['run', 'pause', 'cancel']) }) },
  async (event, { wish }) => {
    await wishJob(
      event.locals.house.db,
      actorOf(event),
      checked(z.uuid(), event.params['id']),
      wish,
    );
  },
);
