import { z } from 'zod';
import { body, endpoint } from '#server/edge/edge';
import { enterRoom } from '#server/rooms/guest';
import { kindInRoom, pick } from '#server/rooms/rooms';
import type { RequestHandler } from './$types';

export const POST: RequestHandler = endpoint(async (event) => {
  const { db } = event.locals.house;
  const { room, visitId } = await enterRoom(event);
  const { itemId, picked } = await body(event, z.object({ itemId: z.uuid(), picked: z.boolean() }));
  await kindInRoom(db, room, itemId);
  await pick(db, visitId, itemId, picked);
});
