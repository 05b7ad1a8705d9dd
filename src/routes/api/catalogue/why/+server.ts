import { z } from 'zod';
import { whyOf } from '#server/catalogue/why';
import { actorOf, checked, endpoint, queryOf } from '#server/edge/edge';

/** Which parts of a sentence hold for one item. */
export const GET = endpoint(async (event) =>
  whyOf(
    event.locals.house.db,
    actorOf(event),
    queryOf(event.url),
    checked(z.uuid(), event.url.searchParams.get('id')),
  ),
);
