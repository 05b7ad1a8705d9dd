import { z } from 'zod';
import { patternSchema } from '#core/naming/wish';
import { actorOf, endpoint } from '#server/edge/edge';
import { keepPattern, keptPatterns } from '#server/naming/kept';

const purpose = z.enum(['naming', 'filing']);

/** Patterns that are kept, for names unless it is said. */
export const GET = endpoint(
  { query: z.object({ purpose: purpose.default('naming') }) },
  (event, wish) => keptPatterns(event.locals.house.db, wish.purpose),
);

const keptSchema = z.object({
  purpose,
  name: z.string().trim().min(1).max(100),
  pattern: patternSchema,
  choices: z.record(z.string().max(40), z.union([z.string().max(200), z.boolean()])).default({}),
});

/** Keep one; one of the same name is replaced. */
export const POST = endpoint({ body: keptSchema }, async (event, wish) => ({
  id: await keepPattern(event.locals.house.db, actorOf(event).id, wish),
}));
