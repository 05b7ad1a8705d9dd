import { z } from 'zod';
import { actorOf, checked, endpoint } from '#server/edge/edge';
import { PICTURE_KEY } from '#server/renditions/store';
import { refusePicture, sendPicture } from '#server/renditions/media';

const addressSchema = z.object({
  item: z.uuid(),
  key: z.string().regex(PICTURE_KEY, 'this names no picture'),
  size: z.enum(['small', 'medium', 'large']),
});

/** A picture of an item, by its content: another content is another address. */
export const GET = endpoint(async ({ locals, params, request }) => {
  const { item, key, size } = checked(addressSchema, params);
  await refusePicture(locals.house, actorOf({ locals }), item, key);
  return sendPicture(locals.house, request, key, size);
});
