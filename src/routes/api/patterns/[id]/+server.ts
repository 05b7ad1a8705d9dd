import { z } from 'zod';
import { checked, endpoint } from '#server/edge/edge';
import { forgetPattern } from '#server/naming/kept';
import type { RequestHandler } from './$types';

export const DELETE: RequestHandler = endpoint((event) =>
  forgetPattern(event.locals.house.db, checked(z.uuid(), event.params['id'])),
);
