import { ArchiveError } from '#core/errors';
import { parseNumber } from '#core/catalogue/number';
import { parseQuery } from '#core/query/grammar';
import { EVERYTHING } from '#core/query/tree';
import { tilesOf } from '#server/catalogue/find';
import { neighbours } from '#server/catalogue/reading';
import { itemByNumber, showItem } from '#server/catalogue/show';
import { actorOf, page } from '#server/edge/edge';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, params, url, depends }) =>
  page(async () => {
    depends('mindful:item');
    const { house } = locals;
    const { db } = house;
    const actor = actorOf({ locals });
    if (!parseNumber(params.number))
      throw new ArchiveError('not-found', `“${params.number}” is no catalogue number.`);
    const id = await itemByNumber(db, params.number);
    const query = url.searchParams.has('q') ? parseQuery(url.searchParams.get('q')!) : EVERYTHING;
    // Outside the result it was found in, an item still has the whole archive around it.
    const near =
      (await neighbours(house, actor, query, id)) ??
      (await neighbours(house, actor, EVERYTHING, id));
    const around = [near?.previous, id, near?.next].filter((one): one is string => Boolean(one));
    const tiles = await tilesOf(db, actor, around);
    const numberOf = (wished: string | null | undefined): string | null =>
      tiles.find((tile) => tile.id === wished)?.number ?? null;
    return {
      item: await showItem(db, actor, id),
      tile: tiles.find((tile) => tile.id === id)!,
      index: near?.index ?? 0,
      total: near?.total ?? 1,
      previous: numberOf(near?.previous),
      next: numberOf(near?.next),
    };
  });
