import { z } from 'zod';
import { actorOf, checked, endpoint } from '#server/edge/edge';
import { emptyingOf, startEmptying } from '#server/intake/run/release';

/** What emptying the source would do. */
export const GET = endpoint(({ locals, params }) =>
  emptyingOf(locals.house, checked(z.uuid(), params['id'])),
);

/** Empty the source: only what was brought in, each file after a fresh look at its copy. */
export const POST = endpoint(
  { body: z.object({ confirmed: z.boolean() }) },
  async (event, { confirmed }) => {
    const id = checked(z.uuid(), event.params['id']);
    return { job: await startEmptying(event.locals.house, id, actorOf(event).id, confirmed) };
  },
);
