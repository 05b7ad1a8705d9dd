import { z } from 'zod';
import { actorOf, body, endpoint } from '#server/edge/edge';
import { startRename } from '#server/naming/rename';
import type { RequestHandler } from './$types';

const wishSchema = z.object({
  itemIds: z.array(z.uuid()).min(1).max(100_000),
  pattern: z.string().min(1).max(300),
  tellApart: z.boolean(),
  fingerprint: z.string().max(100),
});

export const POST: RequestHandler = endpoint(async (event) => ({
  operation: await startRename(
    event.locals.house.db,
    actorOf(event).id,
    await body(event, wishSchema),
  ),
}));
