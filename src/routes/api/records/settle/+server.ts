import { z } from 'zod';
import { FIELD_KEYS, type FieldKey } from '#core/records/fields';
import { actorOf, endpoint } from '#server/edge/edge';
import { settleDisputes } from '#server/records/settle';
import { seenId } from '#server/sight/seen';

const side = z.enum(['ours', 'theirs']);
const schema = z.object({
  id: z.uuid(),
  version: z.number().int(),
  wish: z.partialRecord(z.enum(FIELD_KEYS as [FieldKey, ...FieldKey[]]), side),
});

/** Settle fields in which a record and its file were both changed. */
export const POST = endpoint({ body: schema }, async (event, { id, version, wish }) => {
  const { db } = event.locals.house;
  await seenId(db, actorOf(event), id);
  const { operationId, left } = await settleDisputes(db, actorOf(event).id, id, wish, version);
  return { operation: operationId, left };
});
