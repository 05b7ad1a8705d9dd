import { z } from 'zod';
import { actorOf, endpoint } from '#server/edge/edge';
import { startScan } from '#server/intake/look/scan';

const sourceSchema = z.object({
  kind: z.enum(['device', 'folder', 'drop-zone', 'upload', 'web', 'sheet']),
  name: z.string().min(1).max(4000),
});

/** Look through a source. */
export const POST = endpoint({ body: sourceSchema }, async (event, wish) => ({
  id: await startScan(event.locals.house, actorOf(event).id, wish),
}));
