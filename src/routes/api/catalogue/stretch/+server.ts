import { z } from 'zod';
import { MOST_STRETCH } from '#core/catalogue/tile';
import { stretch } from '#server/catalogue/reading';
import { actorOf, endpoint, queryAsked, wholeAsked } from '#server/edge/edge';

const stretchSchema = z.object({
  q: queryAsked,
  from: wholeAsked.min(0),
  count: wholeAsked.min(1).max(MOST_STRETCH),
});

/** Proportions of a stretch of the wall, from which its rows are laid out. */
export const GET = endpoint({ query: stretchSchema }, (event, { q, from, count }) =>
  stretch(event.locals.house, actorOf(event), q, from, count),
);
