import { censusOf } from '#server/catalogue/census';
import { actorOf, pageQueryOf } from '#server/edge/edge';
import { labelsOf, resolve } from '#server/query/names';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ locals, url, depends }) => {
  depends('mindful:census');
  const { house } = locals;
  const asked = pageQueryOf(url);
  const { query } = await resolve(house.db, asked.query);
  return {
    query,
    unclear: asked.unclear,
    labels: await labelsOf(house.db, query),
    census: await censusOf(house, actorOf({ locals }), query),
  };
};
