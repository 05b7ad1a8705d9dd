import { z } from 'zod';
import { actorOf, checked, endpoint } from '#server/edge/edge';
import { removeEmptyFolders } from '#server/places/emptyFolders';
import { moveFolder } from '#server/places/folders';

const wishSchema = z
  .object({ name: z.string().min(1).max(255).optional(), parentId: z.uuid().optional() })
  .refine(({ name, parentId }) => name ?? parentId, 'a name or a folder it goes to');

/** Give a folder another name, or put it into another one. */
export const PATCH = endpoint({ body: wishSchema }, async (event, wish) => ({
  operation: await moveFolder(
    event.locals.house.db,
    actorOf(event).id,
    checked(z.uuid(), event.params['id']),
    wish,
  ),
}));

/** Remove a folder that holds nothing. */
export const DELETE = endpoint((event) =>
  removeEmptyFolders(
    event.locals.house.db,
    actorOf(event).id,
    checked(z.uuid(), event.params['id']),
  ),
);
