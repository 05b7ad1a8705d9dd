import { parseQuery } from '#core/query/grammar';
import { wallIndex } from '#server/catalogue/find';
import { endpoint } from '#server/edge/edge';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = endpoint(({ locals, url }) =>
  wallIndex(locals.house.db, parseQuery(url.searchParams.get('q') ?? '')),
);
