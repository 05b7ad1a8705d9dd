import { z } from 'zod';
import { pickedSchema } from '#core/query/picked';
import { LONGEST_QUERY } from '#core/query/tree';
import { pickedInOrder } from '#server/catalogue/picked';
import { actorOf, body, endpoint } from '#server/edge/edge';
import { linesToPut, stampItems, stampPreview } from '#server/lists/stamps';
import type { RequestHandler } from './$types';

/** A stamp, or a contributor as one, on chosen items: what it would change, and with the fingerprint of that, do it. */
const putSchema = z.object({
  kind: z.enum(['stamp', 'contributor']),
  id: z.uuid(),
  ids: pickedSchema,
  q: z.string().max(LONGEST_QUERY).default(''),
  fingerprint: z.string().max(100).optional(),
});

export const POST: RequestHandler = endpoint(async (event) => {
  const { kind, id, ids, q, fingerprint } = await body(event, putSchema);
  const { house } = event.locals;
  const actor = actorOf(event);
  const { lines } = await linesToPut(house.db, { kind, id });
  const items = await pickedInOrder(house, actor, ids, q);
  if (fingerprint === undefined) return stampPreview(house.db, items, lines);
  const done = await stampItems(house.db, actor.id, items, lines, fingerprint);
  return { operation: done?.operationId ?? null, changed: done?.changed ?? 0 };
});
