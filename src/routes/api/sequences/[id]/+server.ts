import { z } from 'zod';
import { sequenceChangeSchema } from '#core/wire/sequences';
import { actorOf, checked, endpoint } from '#server/edge/edge';
import { copySequence, dropSequence, editSequence, sequenceOf } from '#server/sequences/sequences';

export const GET = endpoint((event) =>
  sequenceOf(event.locals.house.db, actorOf(event), checked(z.uuid(), event.params['id'])),
);

export const PATCH = endpoint({ body: sequenceChangeSchema }, (event, wish) => {
  const viewer = actorOf(event);
  const id = checked(z.uuid(), event.params['id']);
  return editSequence(event.locals.house.db, { id: viewer.id, viewer }, id, wish);
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
