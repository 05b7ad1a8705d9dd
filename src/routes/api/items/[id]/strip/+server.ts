import { z } from 'zod';
import { actorOf, checked, endpoint } from '#server/edge/edge';
import { sendFilmPart } from '#server/renditions/looking';

/** Frames of a clip side by side. */
export const GET = endpoint(({ locals, params, request }) =>
  sendFilmPart(
    locals.house,
    actorOf({ locals }),
    request,
    checked(z.uuid(), params['id']),
    'strip',
  ),
);
