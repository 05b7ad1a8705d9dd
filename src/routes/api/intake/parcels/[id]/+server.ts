import { z } from 'zod';
import { checked, endpoint } from '#server/edge/edge';
import { dropParcel, readParcel } from '#server/uploads/parcels';
import type { RequestHandler } from './$types';

/** What has arrived whole. */
export const GET: RequestHandler = endpoint(({ locals, params }) =>
  readParcel(locals.house, checked(z.uuid(), params['id'])),
);

export const DELETE: RequestHandler = endpoint(({ locals, params }) =>
  dropParcel(locals.house, checked(z.uuid(), params['id'])),
);
