import { parseNumber } from '#core/catalogue/number';
import { ArchiveError } from '#core/errors';
import { parseQuery } from '#core/query/grammar';
import { is } from '#core/query/tree';
import { tilesOf } from '#server/catalogue/find';
import { neighbours } from '#server/catalogue/reading';
import { itemByNumber, showItem } from '#server/catalogue/show';
import { actorOf, page } from '#server/edge/edge';
import { clipOf, spansOf } from '#server/spans/spans';
import type { PageServerLoad } from './$types';

/** The log of a clip, and of those of a result one after the other: what is chosen there may be a span by its number. */
export const load: PageServerLoad = ({ locals, params, url, depends }) =>
  page(async () => {
    depends('mindful:log');
    const { house } = locals;
    const { db } = house;
    const actor = actorOf({ locals });
    if (!parseNumber(params.number))
      throw new ArchiveError('not-found', `“${params.number}” is no catalogue number.`);
    const clip = await clipOf(db, actor, await itemByNumber(db, actor, params.number));
    const q = url.searchParams.get('q') ?? '';
    const asked = parseQuery(q);
    const plays = { ...asked, where: [...asked.where, is('kind', 'footage', 'sound')] };
    const [item, spans, near] = await Promise.all([
      showItem(db, actor, clip.id),
      spansOf(db, actor, clip.id),
      neighbours(house, actor, plays, clip.id),
    ]);
    const around = [near?.previous, clip.id, near?.next].filter((one): one is string =>
      Boolean(one),
    );
    const tiles = await tilesOf(db, actor, around);
    const numberOf = (id: string | null | undefined): string | null =>
      tiles.find((tile) => tile.id === id)?.number ?? null;
    return {
      clip,
      item,
      spans,
      tile: tiles.find(({ id }) => id === clip.id)!,
      q,
      index: near?.index ?? 0,
      total: near?.total ?? 1,
      previous: numberOf(near?.previous),
      next: numberOf(near?.next),
    };
  });
