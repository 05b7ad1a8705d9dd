import { z } from 'zod';
import { termSchema } from '#core/lists/schemas';
import { actorOf, endpoint } from '#server/edge/edge';
import { saveTerm, termsUnder, termsWith } from '#server/lists/thesaurus';

const wishSchema = z.object({
  under: z.uuid().optional(),
  typed: z.string().trim().max(200).default(''),
});

/** A branch of the thesaurus, or terms by their letters. */
export const GET = endpoint({ query: wishSchema }, async (event, { under, typed }) => {
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
