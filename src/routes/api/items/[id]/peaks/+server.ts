import { z } from 'zod';
import { actorOf, checked, endpoint } from '#server/edge/edge';
import { sendFilmPart } from '#server/renditions/looking';
import type { RequestHandler } from './$types';

/** Highest and lowest samples of a sound, in pairs of signed bytes. */
export const GET: RequestHandler = endpoint(({ locals, params, request }) =>
  sendFilmPart(
    locals.house,
    actorOf({ locals }),
    request,
    checked(z.uuid(), params['id']),
    'peaks',
  ),
);
