import { z } from 'zod';
import { choices } from '#server/catalogue/reading';
import { actorOf, endpoint, queryAsked, wholeAsked } from '#server/edge/edge';

const wishSchema = z.object({
  q: queryAsked,
  field: z.string().max(60),
  at: wholeAsked.min(-1).default(-1),
  typed: z.string().max(200).default(''),
});

export const GET = endpoint({ query: wishSchema }, (event, { q, ...wish }) =>
  choices(event.locals.house, actorOf(event), q, wish),
);
