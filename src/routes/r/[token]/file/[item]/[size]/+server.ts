import { z } from 'zod';
import { ROOM_SIZES } from '#core/rooms/grants';
import { checked, endpoint } from '#server/edge/edge';
import { enterRoom } from '#server/rooms/guest';
import { noteDownload } from '#server/rooms/rooms';
import { sendRoomJpeg, sendRoomOriginal } from '#server/rooms/send';
import type { RequestHandler } from './$types';

const addressSchema = z.object({ item: z.uuid(), size: z.enum(ROOM_SIZES) });

/** What a guest takes away: only the sizes this room allows. */
export const GET: RequestHandler = endpoint(async (event) => {
  const { house } = event.locals;
  const { item, size } = checked(addressSchema, {
    item: event.params['item'],
    size: event.params['size'],
  });
  const { room, visitId } = await enterRoom(event);
  const guest = { house, room, request: event.request };
  const send = size === 'original' ? sendRoomOriginal : sendRoomJpeg;
  const answer = await send(guest, item);
  if (event.request.method === 'GET') await noteDownload(house.db, room.id, visitId, item, size);
  return answer;
});
