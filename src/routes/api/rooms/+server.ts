import { actorOf, body, endpoint } from '#server/edge/edge';
import { newRoomSchema, openRoom } from '#server/rooms/rooms';

export const POST = endpoint(async (event) =>
  openRoom(event.locals.house.db, actorOf(event).id, await body(event, newRoomSchema)),
);
