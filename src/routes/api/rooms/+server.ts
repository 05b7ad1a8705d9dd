import { actorOf, endpoint } from '#server/edge/edge';
import { newRoomSchema, openRoom } from '#server/rooms/rooms';

export const POST = endpoint({ body: newRoomSchema }, async (event, wish) =>
  openRoom(event.locals.house.db, actorOf(event).id, wish),
);
