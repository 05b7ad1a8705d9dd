import { z } from 'zod';
import { actorOf, checked, endpoint } from '#server/edge/edge';
import { findInPages } from '#server/renditions/looking';

/** Pages of a document that hold some words. */
export const GET = endpoint(
  { query: z.object({ find: z.string().max(200).default('') }) },
  ({ locals, params }, { find }) =>
    findInPages(locals.house, actorOf({ locals }), checked(z.uuid(), params['id']), find),
);
