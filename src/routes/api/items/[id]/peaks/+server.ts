import { z } from 'zod';
import { actorOf, checked, endpoint } from '#server/edge/edge';
import { sendFilmPart } from '#server/renditions/looking';

/** Highest and lowest samples of a sound, in pairs of signed bytes. */
export const GET = endpoint(({ locals, params, request }) =>
  sendFilmPart(
    locals.house,
    actorOf({ locals }),
    request,
    checked(z.uuid(), params['id']),
    'peaks',
  ),
);
