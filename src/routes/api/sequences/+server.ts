import { newSequenceSchema } from '#core/wire/sequences';
import { actorOf, endpoint } from '#server/edge/edge';
import { addSequence, sequences } from '#server/sequences/sequences';

export const GET = endpoint((event) => sequences(event.locals.house.db, actorOf(event)));

export const POST = endpoint({ body: newSequenceSchema }, (event, wish) => {
  const viewer = actorOf(event);
  return addSequence(event.locals.house.db, { id: viewer.id, viewer }, wish);
});
