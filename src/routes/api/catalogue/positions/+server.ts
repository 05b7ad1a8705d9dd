import { z } from 'zod';
import { positions } from '#server/catalogue/reading';
import { actorOf, checked, endpoint, queryOf } from '#server/edge/edge';

const wishSchema = z.object({
  south: z.coerce.number().min(-90).max(90),
  west: z.coerce.number().min(-180).max(180),
  north: z.coerce.number().min(-90).max(90),
  east: z.coerce.number().min(-180).max(180),
  /** Degrees of longitude one mark of the map stands for. */
  cell: z.coerce.number().min(0.00001).max(60),
  /** With names of near places, which take a moment. */
  named: z.enum(['yes', 'no']).default('no'),
});

/** Positions within a box, gathered into marks. */
export const GET = endpoint(async (event) => {
  const { cell, named, ...box } = checked(wishSchema, Object.fromEntries(event.url.searchParams));
  return positions(
    event.locals.house,
    actorOf(event),
    queryOf(event.url),
    box,
    cell,
    named === 'yes',
  );
});
