import { parseQuery } from '#core/query/grammar';
import { findIds } from '#server/catalogue/find';
import { endpoint } from '#server/edge/edge';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = endpoint(({ locals, url }) =>
  findIds(locals.house.db, parseQuery(url.searchParams.get('q') ?? '')),
);
