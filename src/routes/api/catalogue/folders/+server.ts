import { z } from 'zod';
import { folderTree } from '#server/catalogue/reading';
import { actorOf, endpoint, queryAsked } from '#server/edge/edge';

/** Every folder with its counts, parents before children. */
export const GET = endpoint({ query: z.object({ q: queryAsked }) }, (event, { q }) =>
  folderTree(event.locals.house, actorOf(event), q),
);
