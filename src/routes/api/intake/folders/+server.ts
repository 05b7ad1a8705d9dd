import { endpoint } from '#server/edge/edge';
import { lookInto } from '#server/intake/sources/sources';

export const GET = endpoint(({ locals, url }) =>
  lookInto(locals.house, url.searchParams.get('path')),
);
