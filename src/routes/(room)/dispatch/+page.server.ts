import { actorOf } from '#server/edge/edge';
import { collections } from '#server/collections/collections';
import { rooms } from '#server/rooms/rooms';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ locals, depends }) => {
  depends('mindful:rooms');
  const { db } = locals.house;
  const [lines, picked] = await Promise.all([rooms(db), collections(db, actorOf({ locals }))]);
  return { rooms: lines, collections: picked };
};
