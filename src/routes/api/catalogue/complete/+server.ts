import { complete } from '#server/catalogue/complete';
import { endpoint } from '#server/edge/edge';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = endpoint(({ locals, url }) =>
  complete(locals.house.db, url.searchParams.get('typed') ?? ''),
);
