import { newSequenceSchema } from '#core/wire/sequences';
import { idsOfPicked } from '#server/catalogue/picked';
import { actorOf, endpoint } from '#server/edge/edge';
import { addSequence, sequences } from '#server/sequences/sequences';

export const GET = endpoint((event) => sequences(event.locals.house.db, actorOf(event)));

export const POST = endpoint({ body: newSequenceSchema }, async (event, { name, items }) => {
  const { house } = event.locals;
  const viewer = actorOf(event);
  const ids = items ? await idsOfPicked(house, viewer, items) : [];
  return addSequence(house.db, { id: viewer.id, viewer }, { name, items: ids });
});
