import { z } from 'zod';
import { actorOf, checked, endpoint } from '#server/edge/edge';
import { dropTrack } from '#server/positions/tracks';

/** Keep a track no more; positions it gave stay. */
export const DELETE = endpoint((event) =>
  dropTrack(event.locals.house.db, actorOf(event).id, checked(z.uuid(), event.params['id'])),
);
