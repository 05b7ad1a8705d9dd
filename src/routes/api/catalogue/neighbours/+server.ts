import { z } from 'zod';
import { neighbours } from '#server/catalogue/reading';
import { actorOf, endpoint, queryAsked } from '#server/edge/edge';

export const GET = endpoint(
  { query: z.object({ q: queryAsked, id: z.uuid() }) },
  (event, { q, id }) => neighbours(event.locals.house, actorOf(event), q, id),
);
