import { z } from 'zod';
import { ArchiveError } from '#core/errors';
import { actorOf, checked, endpoint } from '#server/edge/edge';

const KEYS = ['intake-plan', 'rename-pattern', 'wall', 'pins', 'recent', 'register', 'filing-plan'];
const LARGEST = 20_000;

/** A choice somebody made, to be offered again. */
export const PUT = endpoint({ body: z.record(z.string(), z.unknown()) }, async (event, wish) => {
  const key = checked(z.enum(KEYS), event.params['key']);
  const value = JSON.stringify(wish);
  if (value.length > LARGEST)
    throw new ArchiveError('bad-request', 'This is more than is remembered of a choice.');
  const personId = actorOf(event).id;
  await event.locals.house.db
    .insertInto('remembered')
    .values({ personId, key, value })
    .onConflict((conflict) => conflict.columns(['personId', 'key']).doUpdateSet({ value }))
    .execute();
});
