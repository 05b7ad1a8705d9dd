import { z } from 'zod';
import { sequenceChangeSchema } from '#core/wire/sequences';
import { idsOfPicked } from '#server/catalogue/picked';
import { actorOf, checked, endpoint } from '#server/edge/edge';
import { copySequence, dropSequence, editSequence, sequenceOf } from '#server/sequences/sequences';

export const GET = endpoint((event) =>
  sequenceOf(event.locals.house.db, actorOf(event), checked(z.uuid(), event.params['id'])),
);

export const PATCH = endpoint({ body: sequenceChangeSchema }, async (event, { add, ...wish }) => {
  const { house } = event.locals;
  const viewer = actorOf(event);
  const id = checked(z.uuid(), event.params['id']);
  const items = add && (await idsOfPicked(house, viewer, add.items));
  const whole = add && items ? { ...wish, add: { items, before: add.before } } : wish;
  return editSequence(house.db, { id: viewer.id, viewer }, id, whole);
});

/** Let it go. */
export const DELETE = endpoint((event) => {
  const viewer = actorOf(event);
  const id = checked(z.uuid(), event.params['id']);
  return dropSequence(event.locals.house.db, { id: viewer.id, viewer }, id);
});

/** Make another of it. */
export const POST = endpoint((event) => {
  const viewer = actorOf(event);
  const id = checked(z.uuid(), event.params['id']);
  return copySequence(event.locals.house.db, { id: viewer.id, viewer }, id);
});
