import { z } from 'zod';
import { checked, endpoint } from '#server/edge/edge';
import { readScan } from '#server/intake/look/scan';

export const GET = endpoint(({ locals, params }) =>
  readScan(locals.house.db, checked(z.uuid(), params['id'])),
);
