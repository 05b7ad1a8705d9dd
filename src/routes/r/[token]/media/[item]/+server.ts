import { z } from 'zod';
import { checked, endpoint } from '#server/edge/edge';
import { roomOfToken } from '#server/rooms/rooms';
import { sendRoomMedia } from '#server/rooms/send';
import type { RequestHandler } from './$types';

/** Footage or sound in a reading room: its proxy. */
export const GET: RequestHandler = endpoint(async ({ locals: { house }, params, request }) => {
  const room = await roomOfToken(house.db, params['token'] ?? '');
  return sendRoomMedia({ house, room, request }, checked(z.uuid(), params['item']));
});
