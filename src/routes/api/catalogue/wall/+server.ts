import { z } from 'zod';
import { wall } from '#server/catalogue/reading';
import { actorOf, endpoint, queryAsked } from '#server/edge/edge';

export const GET = endpoint({ query: z.object({ q: queryAsked }) }, (event, { q }) =>
  wall(event.locals.house, actorOf(event), q),
);
