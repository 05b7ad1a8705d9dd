import { z } from 'zod';
import { actorOf, checked, endpoint } from '#server/edge/edge';
import { sendMedia } from '#server/renditions/media';

/** Footage or sound a browser plays: the original, or its proxy. */
export const GET = endpoint(({ locals, params, request }) =>
  sendMedia(locals.house, actorOf({ locals }), request, checked(z.uuid(), params['id'])),
);
