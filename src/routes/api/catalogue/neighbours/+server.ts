import { z } from 'zod';
import { neighbours } from '#server/catalogue/reading';
import { actorOf, checked, endpoint, queryOf } from '#server/edge/edge';

export const GET = endpoint(async (event) =>
  neighbours(
    event.locals.house,
    actorOf(event),
    queryOf(event.url),
    checked(z.uuid(), event.url.searchParams.get('id')),
  ),
);
