import { z } from 'zod';
import { showItem } from '#server/catalogue/show';
import { actorOf, checked, endpoint } from '#server/edge/edge';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = endpoint((event) =>
  showItem(event.locals.house.db, actorOf(event), checked(z.uuid(), event.params['id'])),
);
