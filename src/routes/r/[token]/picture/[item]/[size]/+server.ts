import { z } from 'zod';
import { checked, endpoint } from '#server/edge/edge';
import { roomOfToken } from '#server/rooms/rooms';
import { sendRoomPicture } from '#server/rooms/send';
import type { RequestHandler } from './$types';

const addressSchema = z.object({ item: z.uuid(), size: z.enum(['small', 'medium', 'large']) });

/** A picture in a reading room; the room is asked for at every single request. */
export const GET: RequestHandler = endpoint(async ({ locals: { house }, params, request }) => {
  const room = await roomOfToken(house.db, params['token'] ?? '');
  const { item, size } = checked(addressSchema, { item: params['item'], size: params['size'] });
  return sendRoomPicture({ house, room, request }, item, size);
});
