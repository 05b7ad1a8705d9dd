import { endpoint } from '#server/edge/edge';
import { lookInto } from '#server/intake/sources/sources';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = endpoint(({ locals, url }) =>
  lookInto(locals.house, url.searchParams.get('path')),
);
