import { z } from 'zod';
import { cells } from '#server/catalogue/reading';
import { columnsSchema } from '#server/catalogue/sheet';
import { actorOf, endpoint, queryAsked, wholeAsked } from '#server/edge/edge';

const wishSchema = z.object({
  q: queryAsked,
  offset: wholeAsked.min(0).default(0),
  limit: wholeAsked.min(1).max(500).default(100),
  fields: z
    .string()
    .max(2000)
    .transform((text) => text.split(','))
    .pipe(columnsSchema),
});

/** Fields of a stretch of the Register. */
export const GET = endpoint({ query: wishSchema }, (event, { q, offset, limit, fields }) =>
  cells(event.locals.house, actorOf(event), q, fields, offset, limit),
);
