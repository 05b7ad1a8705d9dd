import { z } from 'zod';
import { actorOf, body, checked, endpoint } from '#server/edge/edge';
import { wishJob } from '#server/jobs/queue';

/** Pause, go on, cancel. */
export const POST = endpoint(async (event) => {
  const { wish } = await body(event, z.object({ wish: z.enum(['run', 'pause', 'cancel']) }));
  await wishJob(event.locals.house.db, actorOf(event), checked(z.uuid(), event.params['id']), wish);
});
