import { z } from 'zod';
import { complete, understand } from '#server/catalogue/complete';
import { actorOf, endpoint } from '#server/edge/edge';

/** What is typed may be a few letters of a name, or a sentence. */
export const GET = endpoint(
  { query: z.object({ typed: z.string().max(2000).default('') }) },
  async (event, { typed }) => {
    const { house } = event.locals;
    const viewer = actorOf(event);
    const [found, understood] = await Promise.all([
      complete(house, viewer, typed),
      typed.trim().includes(' ')
        ? understand(house, viewer, typed, house.now().toISOString().slice(0, 10))
        : [],
    ]);
    return { found, understood };
  },
);
