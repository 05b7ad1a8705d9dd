import { z } from 'zod';
import { actorOf, checked, endpoint } from '#server/edge/edge';
import { renewRoom, revokeRoom } from '#server/rooms/rooms';

/** Close a room. */
export const DELETE = endpoint((event) =>
  revokeRoom(event.locals.house.db, actorOf(event).id, checked(z.uuid(), event.params['id'])),
);

/** A new link for a room; the old one closes. */
export const POST = endpoint(async (event) => ({
  token: await renewRoom(
    event.locals.house.db,
    actorOf(event).id,
    checked(z.uuid(), event.params['id']),
  ),
}));
