import { z } from 'zod';
import { actorOf, body, endpoint } from '#server/edge/edge';
import type { RequestHandler } from './$types';

const KEYS = ['intake-plan', 'rename-pattern', 'wall'];
const LARGEST = 20_000;

/** A choice somebody made, to be offered again. */
export const PUT: RequestHandler = endpoint(async (event) => {
  const key = z.enum(KEYS).parse(event.params['key']);
  const value = JSON.stringify(await body(event, z.record(z.string(), z.unknown()))).slice(
    0,
    LARGEST,
  );
  const personId = actorOf(event).id;
  await event.locals.house.db
    .insertInto('remembered')
    .values({ personId, key, value })
    .onConflict((conflict) => conflict.columns(['personId', 'key']).doUpdateSet({ value }))
    .execute();
});
