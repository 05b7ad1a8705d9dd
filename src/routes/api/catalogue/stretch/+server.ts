import { z } from 'zod';
import { MOST_STRETCH } from '#core/catalogue/tile';
import { stretch } from '#server/catalogue/reading';
import { actorOf, checked, endpoint, queryOf } from '#server/edge/edge';

const stretchSchema = z.object({
  from: z.coerce.number().int().min(0),
  count: z.coerce.number().int().min(1).max(MOST_STRETCH),
});

/** Proportions of a stretch of the wall, from which its rows are laid out. */
export const GET = endpoint(async (event) => {
  const { from, count } = checked(stretchSchema, Object.fromEntries(event.url.searchParams));
  return stretch(event.locals.house, actorOf(event), queryOf(event.url), from, count);
});
