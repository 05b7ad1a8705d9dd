import { z } from 'zod';
import { checked, endpoint } from '#server/edge/edge';
import { readParcel } from '#server/uploads/parcels';
import { letGoOfParcel } from '#server/intake/report/waiting';
import type { RequestHandler } from './$types';

/** What has arrived whole. */
export const GET: RequestHandler = endpoint(({ locals, params }) =>
  readParcel(locals.house, checked(z.uuid(), params['id'])),
);

/** Throw it away with what has arrived. */
export const DELETE: RequestHandler = endpoint(({ locals, params }) =>
  letGoOfParcel(locals.house, checked(z.uuid(), params['id'])),
);
