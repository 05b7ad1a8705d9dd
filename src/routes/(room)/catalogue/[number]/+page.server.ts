import { ArchiveError } from '#core/errors';
import { parseNumber } from '#core/catalogue/number';
import { parseQuery } from '#core/query/grammar';
import { EVERYTHING } from '#core/query/tree';
import { tilesOf } from '#server/catalogue/find';
import { neighbours, tiles as tilesFrom, total } from '#server/catalogue/reading';
import { itemByNumber, showItem } from '#server/catalogue/show';
import { actorOf, page } from '#server/edge/edge';
import { redirect } from '@sveltejs/kit';
import type { PageServerLoad } from './$types';

/** What it comes from before what merely looks like it. */
const CLOSE = ['version of', 'edited from', 'twin of', 'same shot as', 'part of', 'output of'];
const nearestFirst = <T extends { kind: string }>(lineage: T[]): T[] => {
  const rank = ({ kind }: T): number => {
    const at = CLOSE.indexOf(kind);
    return at < 0 ? CLOSE.length : at;
  };
  return [...lineage].sort((a, b) => rank(a) - rank(b));
};

export const load: PageServerLoad = ({ locals, params, url, depends }) =>
  page(async () => {
    depends('mindful:item');
    const { house } = locals;
    const { db } = house;
    const actor = actorOf({ locals });
    if (!parseNumber(params.number))
      throw new ArchiveError('not-found', `“${params.number}” is no catalogue number.`);
    const id = await itemByNumber(db, actor, params.number);
    const { kind } = await db
      .selectFrom('item')
      .select('kind')
      .where('id', '=', id)
      .executeTakeFirstOrThrow();
    // A span is looked at in its clip, at its frame.
    if (kind === 'span') redirect(302, `/catalogue/${params.number}/log${url.search}`);
    const query = url.searchParams.has('q') ? parseQuery(url.searchParams.get('q')!) : EVERYTHING;
    const [own, item] = await Promise.all([
      neighbours(house, actor, query, id),
      showItem(db, actor, id),
    ]);
    // Outside the result it was found in, an item still has the whole archive around it.
    const within = own ? query : EVERYTHING;
    const near = own ?? (await neighbours(house, actor, EVERYTHING, id));
    const around = [
      near?.previous,
      id,
      near?.next,
      ...item.lineage.map((other) => other.id),
    ].filter((one): one is string => Boolean(one));
    const [[first], tiles] = await Promise.all([
      tilesFrom(house, actor, within, 0, 1),
      tilesOf(db, actor, around),
    ]);
    const numberOf = (wished: string | null | undefined): string | null =>
      tiles.find((tile) => tile.id === wished)?.number ?? null;
    const rated = (from: number | null, to: number | null): Promise<number> =>
      total(house, actor, {
        ...within,
        where: [...within.where, { field: 'rating', test: 'range', values: [from, to] }],
      });
    const pass = url.searchParams.has('pass')
      ? { kept: await rated(1, null), rejected: await rated(null, -1) }
      : null;
    return {
      pass,
      item,
      tile: tiles.find((tile) => tile.id === id)!,
      query: within,
      index: near?.index ?? 0,
      total: near?.total ?? 1,
      previous: numberOf(near?.previous),
      next: numberOf(near?.next),
      /** Where a show begins anew. */
      first: first?.number ?? null,
      /** What it can be laid over. */
      relatives: nearestFirst(item.lineage).flatMap(({ kind, number, id: one }) => {
        const found = tiles.find((tile) => tile.id === one);
        return found?.pictureState === 'ready' ? [{ kind, number, picture: found.picture }] : [];
      }),
      /** Pictures one turns to next. */
      beside: tiles.flatMap(({ id: one, picture, pictureState }) =>
        (one === near?.next || one === near?.previous) && pictureState === 'ready' ? [picture] : [],
      ),
    };
  });
