import { z } from 'zod';
import { checked, endpoint } from '#server/edge/edge';
import { sendMedia } from '#server/renditions/media';
import { checkInRoom, roomOfToken } from '#server/rooms/rooms';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = endpoint(async ({ locals: { house }, params, request }) => {
  const room = await roomOfToken(house.db, params['token'] ?? '');
  const item = checked(z.uuid(), params['item']);
  await checkInRoom(house.db, room, item);
  return sendMedia(house, request, item);
});
