import { z } from 'zod';
import { idsBetween } from '#server/catalogue/reading';
import { actorOf, endpoint, queryAsked, wholeAsked } from '#server/edge/edge';

const rangeSchema = z.object({
  q: queryAsked,
  from: wholeAsked.min(0).default(0),
  to: wholeAsked.min(0).optional(),
});

/** Ids of a result in its order, from one place to another (not included), or of all. */
export const GET = endpoint({ query: rangeSchema }, (event, { q, from, to }) =>
  idsBetween(event.locals.house, actorOf(event), q, from, to),
);
