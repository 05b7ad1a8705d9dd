import { z } from 'zod';
import { ArchiveError } from '#core/errors';
import { tilesOf } from '#server/catalogue/find';
import { collectionById, idsInOrder } from '#server/collections/collections';
import { page } from '#server/edge/edge';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, params, depends }) =>
  page(async () => {
    depends('mindful:collections');
    if (!z.uuid().safeParse(params.id).success)
      throw new ArchiveError('not-found', 'There is no such collection.');
    const { db } = locals.house;
    const collection = await collectionById(db, params.id);
    return { collection, tiles: await tilesOf(db, await idsInOrder(db, params.id)) };
  });
