import { z } from 'zod';
import { showItem } from '#server/catalogue/show';
import { checked, endpoint } from '#server/edge/edge';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = endpoint(({ locals, params }) =>
  showItem(locals.house.db, checked(z.uuid(), params['id'])),
);
