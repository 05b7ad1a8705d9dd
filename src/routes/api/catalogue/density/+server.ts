import { z } from 'zod';
import { UNITS } from '#core/timeline/bins';
import { density } from '#server/catalogue/reading';
import { actorOf, checked, endpoint, queryOf } from '#server/edge/edge';

const wishSchema = z.object({
  field: z.enum(['taken', 'brought']).default('taken'),
  unit: z.enum(UNITS).default('month'),
});

/** How many were taken, or brought in, when. */
export const GET = endpoint(async (event) => {
  const { field, unit } = checked(wishSchema, Object.fromEntries(event.url.searchParams));
  return density(event.locals.house, actorOf(event), queryOf(event.url), field, unit);
});
