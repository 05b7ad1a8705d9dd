import { z } from 'zod';
import { actorOf, checked, endpoint } from '#server/edge/edge';
import { tilesState } from '#server/renditions/tilesState';

/** Whether the tiles of a picture are there; asks for them where they are not. */
export const GET = endpoint(({ locals, params }) =>
  tilesState(locals.house, actorOf({ locals }), checked(z.uuid(), params['id'])),
);
