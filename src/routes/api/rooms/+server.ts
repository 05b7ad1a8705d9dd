import { actorOf, body, endpoint } from '#server/edge/edge';
import { newRoomSchema, openRoom } from '#server/rooms/rooms';
import type { RequestHandler } from './$types';

export const POST: RequestHandler = endpoint(async (event) =>
  openRoom(event.locals.house.db, actorOf(event).id, await body(event, newRoomSchema)),
);
