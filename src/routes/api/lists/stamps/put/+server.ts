import { z } from 'zod';
import { pickedSchema } from '#core/query/picked';
import { LONGEST_QUERY } from '#core/query/tree';
import { pickedInOrder } from '#server/catalogue/picked';
import { actorOf, endpoint } from '#server/edge/edge';
import { startStamp } from '#server/lists/stamping';
import { linesToPut, stampPreview } from '#server/lists/stamps';

/** A stamp, or a contributor as one, on chosen items: what it would change, and with what that said, do it. */
const putSchema = z.object({
  kind: z.enum(['stamp', 'contributor']),
  id: z.uuid(),
  ids: pickedSchema,
  q: z.string().max(LONGEST_QUERY).default(''),
  /** What the preview said. */
  shown: z
    .object({ fingerprint: z.string().max(100), changed: z.number().int().min(0) })
    .optional(),
});

export const POST = endpoint({ body: putSchema }, async (event, { kind, id, ids, q, shown }) => {
  const { house } = event.locals;
  const actor = actorOf(event);
  const stamp = await linesToPut(house.db, { kind, id });
  const items = await pickedInOrder(house, actor, ids, q);
  if (shown === undefined) return stampPreview(house.db, items, stamp.lines);
  const done = await startStamp(house.db, actor.id, { ...stamp, ids: items }, shown);
  return { operation: done?.operationId ?? null, changed: done?.changed ?? 0 };
});
