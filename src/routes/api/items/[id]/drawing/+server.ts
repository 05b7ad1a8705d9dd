import { z } from 'zod';
import { actorOf, checked, endpoint } from '#server/edge/edge';
import { sendDrawing } from '#server/renditions/looking';

/** An SVG, to be shown as a picture. */
export const GET = endpoint(({ locals, params, request }) =>
  sendDrawing(locals.house, actorOf({ locals }), request, checked(z.uuid(), params['id'])),
);
