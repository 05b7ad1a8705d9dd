import { z } from 'zod';
import { parseNumber } from '#core/catalogue/number';
import { ArchiveError } from '#core/errors';
import { parseQuery } from '#core/query/grammar';
import { EVERYTHING } from '#core/query/tree';
import { tilesOf } from '#server/catalogue/find';
import { itemByNumber, showItem } from '#server/catalogue/show';
import { actorOf, checked, page } from '#server/edge/edge';
import type { PageServerLoad } from './$types';

/** How many lie side by side. */
const MOST = 6;
const numbers = z
  .string()
  .transform((text) => text.split(',').filter(Boolean))
  .pipe(z.array(z.string().max(40)).min(1).max(MOST));

/** Some photos beside each other, by their catalogue numbers; and the result they were chosen from. */
export const load: PageServerLoad = ({ locals, url, depends }) =>
  page(async () => {
    depends('mindful:item');
    const { db } = locals.house;
    const actor = actorOf({ locals });
    const wished = checked(numbers, url.searchParams.get('items') ?? '');
    const ids: string[] = [];
    for (const number of wished) {
      if (!parseNumber(number))
        throw new ArchiveError('not-found', `“${number}” is no catalogue number.`);
      ids.push(await itemByNumber(db, actor, number));
    }
    const tiles = await tilesOf(db, actor, ids);
    const query = url.searchParams.has('q') ? parseQuery(url.searchParams.get('q')!) : EVERYTHING;
    return {
      query,
      items: await Promise.all(
        ids.map(async (id) => ({
          ...(await showItem(db, actor, id)),
          tile: tiles.find((tile) => tile.id === id)!,
        })),
      ),
    };
  });
