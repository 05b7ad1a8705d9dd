import { z } from 'zod';
import { choices } from '#server/catalogue/reading';
import { actorOf, checked, endpoint, queryOf } from '#server/edge/edge';

const wishSchema = z.object({
  field: z.string().max(60),
  at: z.coerce.number().int().min(-1).default(-1),
  typed: z.string().max(200).default(''),
});

export const GET = endpoint(async (event) => {
  const { searchParams } = event.url;
  const wish = checked(wishSchema, Object.fromEntries(searchParams));
  return choices(event.locals.house, actorOf(event), queryOf(event.url), wish);
});
