import { z } from 'zod';
import { ArchiveError } from '#core/errors';
import { is } from '#core/query/tree';
import { tiles, total } from '#server/catalogue/reading';
import { actorOf, page, pageQueryOf } from '#server/edge/edge';
import { labelsOf, resolve } from '#server/query/names';
import { sequenceOf } from '#server/sequences/sequences';
import type { PageServerLoad } from './$types';

/** Offered beside it; a narrower sentence finds the others. */
const OFFERED = 60;

/** A rough sequence, and a query beside it that offers what could go into it. */
export const load: PageServerLoad = ({ locals, params, url, depends }) =>
  page(async () => {
    depends('mindful:sequence');
    if (!z.uuid().safeParse(params.id).success)
      throw new ArchiveError('not-found', 'There is no such sequence.');
    const { house } = locals;
    const actor = actorOf({ locals });
    const asked = pageQueryOf(url);
    const wished = url.searchParams.has('q')
      ? asked.query
      : { ...asked.query, where: [is('kind', 'span')] };
    const { query } = await resolve(house.db, wished);
    const [sequence, offers, found, labels] = await Promise.all([
      sequenceOf(house.db, actor, params.id),
      tiles(house, actor, query, 0, OFFERED),
      total(house, actor, query),
      labelsOf(house.db, query),
    ]);
    return { sequence, query, labels, offers, found };
  });
