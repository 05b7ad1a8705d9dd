import { z } from 'zod';
import { ArchiveError } from '#core/errors';
import { tilesOf } from '#server/catalogue/find';
import { keptCollection, queryOfCollection } from '#server/collections/kept';
import { actorOf, page } from '#server/edge/edge';
import { labelsOf } from '#server/query/names';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, params, depends }) =>
  page(async () => {
    depends('mindful:collections');
    if (!z.uuid().safeParse(params.id).success)
      throw new ArchiveError('not-found', 'There is no such collection.');
    const { house } = locals;
    const actor = actorOf({ locals });
    const { collection, ids } = await keptCollection(house, actor, params.id);
    const query = queryOfCollection(collection);
    return {
      collection,
      query,
      labels: await labelsOf(house.db, query),
      tiles: await tilesOf(house.db, actor, ids),
    };
  });
