import { folderTree } from '#server/catalogue/reading';
import { actorOf, endpoint, queryOf } from '#server/edge/edge';

/** Every folder with its counts, parents before children. */
export const GET = endpoint((event) =>
  folderTree(event.locals.house, actorOf(event), queryOf(event.url)),
);
