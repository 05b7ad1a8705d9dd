import { z } from 'zod';
import { actorOf, checked, endpoint } from '#server/edge/edge';
import { filmOf } from '#server/renditions/looking';
import type { RequestHandler } from './$types';

/** When frames are shown, the strip, scenes; null while they are being read. */
export const GET: RequestHandler = endpoint(({ locals, params }) =>
  filmOf(locals.house, actorOf({ locals }), checked(z.uuid(), params['id'])),
);
