import { z } from 'zod';
import { checked, endpoint } from '#server/edge/edge';
import { readScan } from '#server/intake/look/scan';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = endpoint(({ locals, params }) =>
  readScan(locals.house.db, checked(z.uuid(), params['id'])),
);
