import type { Viewer } from '#core/sight/viewer';
import { refTo, type Query } from '#core/query/tree';
import { collectionById, collections, idsInOrder, type Collection } from './collections';
import type { House } from '../house/house';
import { idsBetween, tiles, total } from '../catalogue/reading';

const COVER = 4;
const MOST_SHOWN = 2000;

/** What a collection finds, as a query. */
export const queryOfCollection = ({ id, kind, query }: Collection): Query =>
  kind === 'standing' && query
    ? query
    : {
        where: [{ field: 'collection', test: 'is', values: [refTo(id)] }],
        order: { by: 'hand', down: false },
      };

async function filled(house: House, viewer: Viewer, one: Collection): Promise<Collection> {
  if (one.kind !== 'standing') return one;
  const query = queryOfCollection(one);
  const [count, first] = await Promise.all([
    total(house, viewer, query),
    tiles(house, viewer, query, 0, COVER),
  ]);
  return { ...one, count, cover: first.map(({ picture }) => picture) };
}

/** All collections; standing ones with what they find now. */
export async function keptCollections(house: House, viewer: Viewer): Promise<Collection[]> {
  const all = await collections(house.db, viewer);
  return Promise.all(all.map((one) => filled(house, viewer, one)));
}

/** One collection with the ids of what is in it. @throws ArchiveError not-found */
export async function keptCollection(
  house: House,
  viewer: Viewer,
  id: string,
): Promise<{ collection: Collection; ids: string[] }> {
  const found = await collectionById(house.db, viewer, id);
  const collection = await filled(house, viewer, found);
  if (collection.kind !== 'standing')
    return { collection, ids: await idsInOrder(house.db, viewer, id) };
  return {
    collection,
    ids: await idsBetween(house, viewer, queryOfCollection(collection), 0, MOST_SHOWN),
  };
}
