import { z } from 'zod';
import { UNITS } from '#core/timeline/bins';
import { density } from '#server/catalogue/reading';
import { actorOf, endpoint, queryAsked } from '#server/edge/edge';

const wishSchema = z.object({
  q: queryAsked,
  field: z.enum(['taken', 'brought']).default('taken'),
  unit: z.enum(UNITS).default('month'),
});

/** How many were taken, or brought in, when. */
export const GET = endpoint({ query: wishSchema }, (event, { q, field, unit }) =>
  density(event.locals.house, actorOf(event), q, field, unit),
);
