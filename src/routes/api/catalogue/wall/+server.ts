import { wall } from '#server/catalogue/reading';
import { actorOf, endpoint, queryOf } from '#server/edge/edge';

export const GET = endpoint((event) =>
  wall(event.locals.house, actorOf(event), queryOf(event.url)),
);
