import { actorOf, endpoint } from '#server/edge/edge';
import { underway } from '#server/jobs/queue';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = endpoint((event) =>
  underway(event.locals.house.db, actorOf(event)),
);
