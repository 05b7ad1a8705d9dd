import { z } from 'zod';
import { parseQuery } from '#core/query/grammar';
import { neighboursOf } from '#server/catalogue/find';
import { checked, endpoint } from '#server/edge/edge';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = endpoint(({ locals, url }) =>
  neighboursOf(
    locals.house.db,
    parseQuery(url.searchParams.get('q') ?? ''),
    checked(z.uuid(), url.searchParams.get('id')),
  ),
);
