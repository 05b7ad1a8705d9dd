import { facetsQuery } from '#core/api/shapes';
import { parseQuery } from '#core/query/grammar';
import { choices, total } from '#server/catalogue/reading';
import { actorOf, endpoint } from '#server/edge/edge';

export const GET = endpoint({ query: facetsQuery }, async (event, wish) => {
  const { house } = event.locals;
  const viewer = actorOf(event);
  const query = parseQuery(wish.q);
  const keys = wish.fields
    .split(',')
    .map((key) => key.trim())
    .filter(Boolean);
  const facets = await Promise.all(
    keys.map(async (field) => {
      const told = await choices(house, viewer, query, { field, at: -1, typed: '' });
      const values = told.choices.map(({ value, label, count }) => ({ value, label, count }));
      return [field, { lacking: told.lacking, more: told.more, values }] as const;
    }),
  );
  return { total: await total(house, viewer, query), facets: Object.fromEntries(facets) };
});
