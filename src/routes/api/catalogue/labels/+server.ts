import { z } from 'zod';
import { parseQuery } from '#core/query/grammar';
import { LONGEST_QUERY } from '#core/query/tree';
import { endpoint } from '#server/edge/edge';
import { labelsOf } from '#server/query/names';

const MOST = 30;
const wishSchema = z.object({ queries: z.array(z.string().max(LONGEST_QUERY)).max(MOST) });

/** What the references of some queries are called. */
export const POST = endpoint({ body: wishSchema }, async (event, { queries }) => {
  const found = await Promise.all(
    queries.map((text) => labelsOf(event.locals.house.db, parseQuery(text))),
  );
  return Object.assign({}, ...found) as Record<string, string>;
});
