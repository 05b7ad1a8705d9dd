import { EVERYTHING } from '#core/query/tree';
import { choices } from '#server/catalogue/reading';
import { actorOf, page } from '#server/edge/edge';
import { termRules } from '#server/terms/rules';
import type { PageServerLoad } from './$types';

/** How many items break each rule. */
export const load: PageServerLoad = (event) =>
  page(async () => {
    event.depends('mindful:lists');
    const told = await choices(event.locals.house, actorOf(event), EVERYTHING, {
      field: 'unready',
      at: -1,
      typed: '',
    });
    return {
      terms: await termRules(event.locals.house.db),
      broken: Object.fromEntries(told.choices.map(({ value, count }) => [String(value), count])),
    };
  });
