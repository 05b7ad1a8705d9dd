import { z } from 'zod';
import { whyOf } from '#server/catalogue/why';
import { actorOf, endpoint, queryAsked } from '#server/edge/edge';

/** Which parts of a sentence hold for one item. */
export const GET = endpoint(
  { query: z.object({ q: queryAsked, id: z.uuid() }) },
  (event, { q, id }) => whyOf(event.locals.house.db, actorOf(event), q, id),
);
