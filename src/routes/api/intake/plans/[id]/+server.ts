import { z } from 'zod';
import { checked, endpoint } from '#server/edge/edge';
import { forgetPlan } from '#server/intake/plan/plans';
import type { RequestHandler } from './$types';

export const DELETE: RequestHandler = endpoint(({ locals, params }) =>
  forgetPlan(locals.house.db, checked(z.uuid(), params['id'])),
);
