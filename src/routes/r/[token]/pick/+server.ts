import { z } from 'zod';
import { endpoint } from '#server/edge/edge';
import { enterRoom } from '#server/rooms/guest';
import { kindInRoom, pick } from '#server/rooms/rooms';

export const POST = endpoint(
  { body: z.object({ itemId: z.uuid(), picked: z.boolean() }) },
  async (event, { itemId, picked }) => {
    const { db } = event.locals.house;
    const { room, visitId } = await enterRoom(event);
    await kindInRoom(db, room, itemId);
    await pick(db, visitId, itemId, picked);
  },
);
