import { z } from 'zod';
import { idsBetween } from '#server/catalogue/reading';
import { actorOf, checked, endpoint, queryOf } from '#server/edge/edge';

const rangeSchema = z.object({
  from: z.coerce.number().int().min(0).default(0),
  to: z.coerce.number().int().min(0).optional(),
});

/** Ids of a result in its order, from one place to another (not included), or of all. */
export const GET = endpoint(async (event) => {
  const { from, to } = checked(rangeSchema, Object.fromEntries(event.url.searchParams));
  return idsBetween(event.locals.house, actorOf(event), queryOf(event.url), from, to);
});
