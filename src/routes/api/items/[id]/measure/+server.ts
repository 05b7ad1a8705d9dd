import { z } from 'zod';
import { actorOf, checked, endpoint, numberAsked } from '#server/edge/edge';
import { measured } from '#server/renditions/looking';

const share = numberAsked.min(0).max(1);
const region = z
  .object({ left: share, top: share, width: share, height: share })
  .refine(({ width, height }) => width > 0 && height > 0, 'The part is empty.');

/** How sharp and bright a part of a picture is. */
export const GET = endpoint({ query: region }, ({ locals, params }, part) =>
  measured(locals.house, actorOf({ locals }), checked(z.uuid(), params['id']), part),
);
