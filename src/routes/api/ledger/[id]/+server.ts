import { z } from 'zod';
import { actorOf, checked, endpoint } from '#server/edge/edge';
import { operationSteps } from '#server/ledger/ledger';

export const GET = endpoint(({ locals, params }) =>
  operationSteps(locals.house.db, actorOf({ locals }), checked(z.uuid(), params['id'])),
);
