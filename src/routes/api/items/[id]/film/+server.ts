import { z } from 'zod';
import { actorOf, checked, endpoint } from '#server/edge/edge';
import { filmOf } from '#server/renditions/looking';

/** When frames are shown, the strip, scenes; null while they are being read. */
export const GET = endpoint(({ locals, params }) =>
  filmOf(locals.house, actorOf({ locals }), checked(z.uuid(), params['id'])),
);
