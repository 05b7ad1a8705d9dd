import { z } from 'zod';
import { cells } from '#server/catalogue/reading';
import { columnsSchema } from '#server/catalogue/sheet';
import { actorOf, checked, endpoint, queryOf } from '#server/edge/edge';

const wishSchema = z.object({
  offset: z.coerce.number().int().min(0).default(0),
  limit: z.coerce.number().int().min(1).max(500).default(100),
  fields: z
    .string()
    .max(2000)
    .transform((text) => text.split(','))
    .pipe(columnsSchema),
});

/** Fields of a stretch of the Register. */
export const GET = endpoint(async (event) => {
  const { offset, limit, fields } = checked(wishSchema, Object.fromEntries(event.url.searchParams));
  return cells(event.locals.house, actorOf(event), queryOf(event.url), fields, offset, limit);
});
