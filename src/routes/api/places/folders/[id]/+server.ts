import { z } from 'zod';
import { actorOf, checked, endpoint } from '#server/edge/edge';
import { removeEmptyFolders } from '#server/places/emptyFolders';
import type { RequestHandler } from './$types';

/** Remove a folder that holds nothing. */
export const DELETE: RequestHandler = endpoint((event) =>
  removeEmptyFolders(
    event.locals.house.db,
    actorOf(event).id,
    checked(z.uuid(), event.params['id']),
  ),
);
