import { z } from 'zod';
import { actorOf, checked, endpoint } from '#server/edge/edge';
import { clipsBeside } from '#server/spans/beside';

/** Clips that ran while this one did. */
export const GET = endpoint(({ locals, params }) =>
  clipsBeside(locals.house.db, actorOf({ locals }), checked(z.uuid(), params['id'])),
);
