import { z } from 'zod';
import { checked, endpoint } from '#server/edge/edge';
import { accessions, leftOver } from '#server/intake/report';
import { retryFailed } from '#server/intake/run';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = endpoint(async ({ locals, params }) => {
  const id = checked(z.uuid(), params['id']);
  const [line] = await accessions(locals.house.db, 1, id);
  return { ...line, left: await leftOver(locals.house.db, id) };
});

/** Try what failed once more. */
export const POST: RequestHandler = endpoint(({ locals, params }) =>
  retryFailed(locals.house, checked(z.uuid(), params['id'])),
);
