import { z } from 'zod';
import { checked, endpoint } from '#server/edge/edge';
import { termsNear } from '#server/terms/terms';
import type { RequestHandler } from './$types';

/** Terms an item's neighbours in time and folder have. */
export const GET: RequestHandler = endpoint(({ locals, url }) =>
  termsNear(locals.house.db, checked(z.uuid(), url.searchParams.get('item'))),
);
