import { linesOf } from '#core/records/column';
import { pickedInOrder } from '#server/catalogue/picked';
import { actorOf, endpoint } from '#server/edge/edge';
import { columnPreview, columnSchema } from '#server/records/column';

/** What a pasted column would change; nothing is changed. */
export const POST = endpoint({ body: columnSchema }, async (event, { ids, q, field, text }) => {
  const { house } = event.locals;
  const items = await pickedInOrder(house, actorOf(event), ids, q);
  return columnPreview(house.db, items, field, linesOf(text));
});
