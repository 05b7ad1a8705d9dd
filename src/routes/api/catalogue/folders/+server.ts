import { folderTree } from '#server/catalogue/reading';
import { actorOf, endpoint, queryOf } from '#server/edge/edge';
import type { RequestHandler } from './$types';

/** Every folder with its counts, parents before children. */
export const GET: RequestHandler = endpoint((event) =>
  folderTree(event.locals.house, actorOf(event), queryOf(event.url)),
);
