import { z } from 'zod';
import { body, endpoint } from '#server/edge/edge';
import { renamePreview } from '#server/naming/rename';
import type { RequestHandler } from './$types';

const wishSchema = z.object({
  itemIds: z.array(z.uuid()).min(1).max(100_000),
  pattern: z.string().max(300),
  tellApart: z.boolean(),
});

export const POST: RequestHandler = endpoint(async (event) =>
  renamePreview(event.locals.house.db, await body(event, wishSchema)),
);
