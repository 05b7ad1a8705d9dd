import { z } from 'zod';
import { actorOf, checked, endpoint } from '#server/edge/edge';
import { askForPicture } from '#server/renditions/again';
import { fileFor } from '#server/sight/files';

const wishSchema = z.object({
  /** How it is taken from now on; null: as without a wish; left out: as it was. The moment in s. */
  choice: z
    .union([
      z.object({ moment: z.number().min(0).max(999_999) }).strict(),
      z.object({ developed: z.literal(true) }).strict(),
    ])
    .nullable()
    .optional(),
});

/** Make the pictures of an item anew; of footage at a moment, of raw data developed here. */
export const POST = endpoint({ body: wishSchema }, async (event, { choice }) => {
  const id = checked(z.uuid(), event.params['id']);
  const { itemId } = await fileFor(event.locals.house.db, actorOf(event), id, 'show');
  await askForPicture(event.locals.house, itemId, choice);
  return { asked: true };
});
