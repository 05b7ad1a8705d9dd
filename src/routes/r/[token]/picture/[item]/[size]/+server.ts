import { z } from 'zod';
import { checked, endpoint } from '#server/edge/edge';
import { sendFile } from '#server/edge/send';
import { originalOf } from '#server/files/located';
import { pictureFile, type PictureSize } from '#server/renditions/store';
import { checkInRoom, roomOfToken } from '#server/rooms/rooms';
import type { RequestHandler } from './$types';

const addressSchema = z.object({ item: z.uuid(), size: z.enum(['small', 'medium', 'large']) });

/** A picture in a reading room; the room is asked for at every single request. */
export const GET: RequestHandler = endpoint(async ({ locals: { house }, params, request }) => {
  const room = await roomOfToken(house.db, params['token'] ?? '');
  const { item, size } = checked(addressSchema, { item: params['item'], size: params['size'] });
  await checkInRoom(house.db, room, item);
  const { pictureKey } = await originalOf(house.db, item);
  return sendFile(request, pictureFile(house, pictureKey, size as PictureSize), {
    type: 'image/webp',
  });
});
