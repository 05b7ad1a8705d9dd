import { z } from 'zod';
import { actorOf, checked, endpoint } from '#server/edge/edge';
import { sendFilmPart } from '#server/renditions/looking';
import type { RequestHandler } from './$types';

/** Frames of a clip side by side. */
export const GET: RequestHandler = endpoint(({ locals, params, request }) =>
  sendFilmPart(
    locals.house,
    actorOf({ locals }),
    request,
    checked(z.uuid(), params['id']),
    'strip',
  ),
);
