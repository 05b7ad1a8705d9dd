import { z } from 'zod';
import { actorOf, checked, endpoint } from '#server/edge/edge';
import { measured } from '#server/renditions/looking';

const part = z.coerce.number().min(0).max(1);
const region = z
  .object({ left: part, top: part, width: part, height: part })
  .refine(({ width, height }) => width > 0 && height > 0, 'The part is empty.');

/** How sharp and bright a part of a picture is. */
export const GET = endpoint(({ locals, params, url }) =>
  measured(
    locals.house,
    actorOf({ locals }),
    checked(z.uuid(), params['id']),
    checked(region, Object.fromEntries(url.searchParams)),
  ),
);
