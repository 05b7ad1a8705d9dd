import { z } from 'zod';
import { actorOf, endpoint } from '#server/edge/edge';
import { emptyFolders } from '#server/places/emptyFolders';
import { makeFolderIn } from '#server/places/folders';

/** Ids of folders that hold nothing. */
export const GET = endpoint(({ locals }) => emptyFolders(locals.house.db));

const wishSchema = z.object({ parentId: z.uuid(), name: z.string().min(1).max(255) });

/** Make a folder below another. */
export const POST = endpoint({ body: wishSchema }, async (event, { parentId, name }) => {
  return makeFolderIn(event.locals.house.db, actorOf(event).id, parentId, name);
});
