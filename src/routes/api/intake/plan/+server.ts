import { z } from 'zod';
import { endpoint } from '#server/edge/edge';
import { planSchema } from '#core/intake/plan';
import { previewPlan } from '#server/intake/plan/targets';

const wishSchema = z.object({
  scanId: z.uuid(),
  positions: z.array(z.number().int().min(0)).max(100_000),
  placeId: z.uuid(),
  plan: planSchema,
});

/** Folders and names a plan would give. */
export const POST = endpoint(
  { body: wishSchema },
  async (event, { scanId, positions, placeId, plan }) => {
    return previewPlan(event.locals.house.db, scanId, positions, placeId, plan);
  },
);
