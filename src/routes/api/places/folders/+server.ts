import { endpoint } from '#server/edge/edge';
import { emptyFolders } from '#server/places/emptyFolders';
import type { RequestHandler } from './$types';

/** Ids of folders that hold nothing. */
export const GET: RequestHandler = endpoint(({ locals }) => emptyFolders(locals.house.db));
