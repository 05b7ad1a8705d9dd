import { z } from 'zod';
import { positions } from '#server/catalogue/reading';
import { actorOf, endpoint, numberAsked, queryAsked } from '#server/edge/edge';

const wishSchema = z.object({
  q: queryAsked,
  south: numberAsked.min(-90).max(90),
  west: numberAsked.min(-180).max(180),
  north: numberAsked.min(-90).max(90),
  east: numberAsked.min(-180).max(180),
  /** Degrees of longitude one mark of the map stands for. */
  cell: numberAsked.min(0.00001).max(60),
  /** With names of near places, which take a moment. */
  named: z.enum(['yes', 'no']).default('no'),
});

/** Positions within a box, gathered into marks. */
export const GET = endpoint({ query: wishSchema }, (event, { q, cell, named, ...box }) =>
  positions(event.locals.house, actorOf(event), q, box, cell, named === 'yes'),
);
