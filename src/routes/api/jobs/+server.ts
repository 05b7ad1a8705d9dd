import { actorOf, endpoint } from '#server/edge/edge';
import { underway } from '#server/jobs/queue';

export const GET = endpoint((event) => underway(event.locals.house.db, actorOf(event)));
