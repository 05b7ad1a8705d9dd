import { z } from 'zod';
import { checked, endpoint } from '#server/edge/edge';
import { renewRoom, revokeRoom } from '#server/rooms/rooms';
import type { RequestHandler } from './$types';

/** Close a room. */
export const DELETE: RequestHandler = endpoint(({ locals, params }) =>
  revokeRoom(locals.house.db, checked(z.uuid(), params['id'])),
);

/** A new link for a room; the old one closes. */
export const POST: RequestHandler = endpoint(async ({ locals, params }) => ({
  token: await renewRoom(locals.house.db, checked(z.uuid(), params['id'])),
}));
