import { z } from 'zod';
import { termSchema } from '#core/lists/schemas';
import { actorOf, checked, endpoint } from '#server/edge/edge';
import { saveTerm, termsUnder, termsWith } from '#server/lists/thesaurus';

const wishSchema = z.object({
  under: z.uuid().optional(),
  typed: z.string().trim().max(200).default(''),
});

/** A branch of the thesaurus, or terms by their letters. */
export const GET = endpoint(async (event) => {
  const { under, typed } = checked(wishSchema, Object.fromEntries(event.url.searchParams));
  const { house } = event.locals;
  if (typed === '') return termsUnder(house, actorOf(event), under ?? null);
  const terms = await termsWith(house, actorOf(event), typed);
  return { terms, total: terms.length };
});

/** Make a term. */
export const POST = endpoint(
  { body: z.object({ entry: termSchema }) },
  async (event, { entry }) => {
    const { id, done } = await saveTerm(event.locals.house.db, actorOf(event).id, null, entry);
    return { id, operation: done?.operationId ?? null };
  },
);
