import { z } from 'zod';
import { showItem } from '#server/catalogue/show';
import { actorOf, checked, endpoint } from '#server/edge/edge';

export const GET = endpoint((event) =>
  showItem(event.locals.house.db, actorOf(event), checked(z.uuid(), event.params['id'])),
);
