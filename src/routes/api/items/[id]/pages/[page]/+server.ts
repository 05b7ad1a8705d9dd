import { z } from 'zod';
import { actorOf, checked, endpoint } from '#server/edge/edge';
import { sendPage } from '#server/renditions/looking';

const page = z.coerce.number().int().min(1).max(20_000);

/** One page of a document. */
export const GET = endpoint(({ locals, params, request }) =>
  sendPage(
    locals.house,
    actorOf({ locals }),
    request,
    checked(z.uuid(), params['id']),
    checked(page, params['page']),
  ),
);
