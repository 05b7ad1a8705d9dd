import { ArchiveError } from '#core/errors';
import { parseNumber } from '#core/catalogue/number';
import { parseQuery } from '#core/query/grammar';
import { EVERYTHING } from '#core/query/tree';
import { neighboursOf, tilesOf } from '#server/catalogue/find';
import { itemByNumber, showItem } from '#server/catalogue/show';
import { actorOf, page } from '#server/edge/edge';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, params, url, depends }) =>
  page(async () => {
    depends('mindful:item');
    const { db } = locals.house;
    if (!parseNumber(params.number))
      throw new ArchiveError('not-found', `“${params.number}” is no catalogue number.`);
    const id = await itemByNumber(db, params.number);
    const query = url.searchParams.has('q') ? parseQuery(url.searchParams.get('q')!) : EVERYTHING;
    // Outside the result it was found in, an item still has the whole archive around it.
    const near = (await neighboursOf(db, query, id)) ?? (await neighboursOf(db, EVERYTHING, id));
    const around = [near?.previous, id, near?.next].filter((one): one is string => Boolean(one));
    const tiles = await tilesOf(db, around);
    const numberOf = (wished: string | null | undefined): string | null =>
      tiles.find((tile) => tile.id === wished)?.number ?? null;
    return {
      item: await showItem(db, actorOf({ locals }), id),
      tile: tiles.find((tile) => tile.id === id)!,
      index: near?.index ?? 0,
      total: near?.total ?? 1,
      previous: numberOf(near?.previous),
      next: numberOf(near?.next),
    };
  });
