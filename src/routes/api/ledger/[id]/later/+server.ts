import { z } from 'zod';
import { checked, endpoint } from '#server/edge/edge';
import { laterChanges } from '#server/deeds/many';

/** Later changes that stand in the way of taking this one back. */
export const GET = endpoint(({ locals, params }) =>
  laterChanges(locals.house.db, checked(z.uuid(), params['id'])),
);
