import { z } from 'zod';
import { actorOf, checked, endpoint } from '#server/edge/edge';
import { forgetPlan } from '#server/intake/plan/plans';

export const DELETE = endpoint((event) =>
  forgetPlan(event.locals.house.db, actorOf(event).id, checked(z.uuid(), event.params['id'])),
);
