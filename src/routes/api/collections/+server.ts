import { z } from 'zod';
import { pickedSchema } from '#core/query/picked';
import { idsOfPicked } from '#server/catalogue/picked';
import { actorOf, endpoint } from '#server/edge/edge';
import { addCollection, addItems } from '#server/collections/collections';
import { keptCollections } from '#server/collections/kept';
import { resolve } from '#server/query/names';
import { parseQuery } from '#core/query/grammar';
import { LONGEST_QUERY } from '#core/query/tree';
import { asSeen } from '#server/sight/seen';

export const GET = endpoint(({ locals }) => keptCollections(locals.house, actorOf({ locals })));

const newSchema = z.object({
  name: z.string().trim().min(1, 'a name is needed').max(200),
  note: z.string().max(2000).default(''),
  /** Compact text of what it finds, for one that fills itself. */
  query: z.string().max(LONGEST_QUERY).optional(),
  itemIds: pickedSchema.optional(),
});

export const POST = endpoint({ body: newSchema }, async (event, { name, note, query, itemIds }) => {
  const { house } = event.locals;
  const { db } = house;
  const ids = itemIds ? await idsOfPicked(house, actorOf(event), itemIds) : asSeen([]);
  if (query !== undefined) {
    const { query: named } = await resolve(db, parseQuery(query));
    return { id: await addCollection(db, actorOf(event).id, name, note, named), added: 0 };
  }
  const id = await addCollection(db, actorOf(event).id, name, note);
  return { id, added: await addItems(db, actorOf(event), id, ids) };
});
