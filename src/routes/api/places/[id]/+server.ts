import { z } from 'zod';
import { actorOf, checked, endpoint } from '#server/edge/edge';
import { askToCompare } from '#server/watching/compare';
import { pointPlace, setPlace } from '#server/watching/manage';
import { placeById } from '#server/places/places';

const changeSchema = z
  .object({
    handsOff: z.boolean(),
    beside: z.boolean(),
    shared: z.boolean(),
    watched: z.boolean(),
    root: z.string().min(1).max(4000).startsWith('/', 'a path begins with a slash'),
  })
  .partial()
  .strict();

/** Hands off, records beside its files, watched, or pointed to another path. */
export const PATCH = endpoint({ body: changeSchema }, async (event, { root, ...change }) => {
  const { house } = event.locals;
  const id = checked(z.uuid(), event.params['id']);
  if (root) await pointPlace(house, id, root);
  if (Object.keys(change).length > 0) await setPlace(house, id, change);
});

/** Compare it with its disk now. */
export const POST = endpoint(async (event) => {
  const { house } = event.locals;
  const place = await placeById(house.db, checked(z.uuid(), event.params['id']));
  await askToCompare(house, place, actorOf(event).id);
});
