import { z } from 'zod';
import { endpoint } from '#server/edge/edge';
import { arrived, dropZoneRule, setDropZoneRule } from '#server/watching/dropzone';
import { keptPlanSchema } from '#server/intake/plan/plans';

/** Where the drop zone lies, what has arrived in it, and the plan by which it empties itself. */
export const GET = endpoint(async ({ locals: { house } }) => {
  const { whole, growing } = await arrived(house);
  return {
    path: house.folders.dropZone,
    whole: whole.length,
    growing,
    rule: await dropZoneRule(house),
  };
});

export const PUT = endpoint(
  { body: z.object({ rule: keptPlanSchema.nullable() }) },
  async (event, { rule }) => {
    await setDropZoneRule(event.locals.house, rule);
  },
);
