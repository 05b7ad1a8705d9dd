import { wall } from '#server/catalogue/reading';
import { actorOf, endpoint, queryOf } from '#server/edge/edge';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = endpoint((event) =>
  wall(event.locals.house, actorOf(event), queryOf(event.url)),
);
