import { z } from 'zod';
import { actorOf, checked, endpoint } from '#server/edge/edge';
import { forgetPattern } from '#server/naming/kept';

export const DELETE = endpoint((event) =>
  forgetPattern(event.locals.house.db, actorOf(event).id, checked(z.uuid(), event.params['id'])),
);
