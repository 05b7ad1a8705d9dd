import { z } from 'zod';
import { actorOf, checked, endpoint } from '#server/edge/edge';
import { forgetPattern } from '#server/naming/kept';
import type { RequestHandler } from './$types';

export const DELETE: RequestHandler = endpoint((event) =>
  forgetPattern(event.locals.house.db, actorOf(event).id, checked(z.uuid(), event.params['id'])),
);
