import { z } from 'zod';
import { actorOf, body, endpoint } from '#server/edge/edge';
import { addCollection, addItems, collections } from '#server/collections/collections';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = endpoint(({ locals }) => collections(locals.house.db));

const newSchema = z.object({
  name: z.string().trim().min(1, 'a name is needed').max(200),
  note: z.string().max(2000).default(''),
  itemIds: z.array(z.uuid()).max(20_000).default([]),
});

export const POST: RequestHandler = endpoint(async (event) => {
  const { db } = event.locals.house;
  const { name, note, itemIds } = await body(event, newSchema);
  const id = await addCollection(db, actorOf(event).id, name, note);
  return { id, added: await addItems(db, actorOf(event), id, itemIds) };
});
