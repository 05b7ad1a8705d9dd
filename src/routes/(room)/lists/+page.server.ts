import { z } from 'zod';
import { actorOf, page } from '#server/edge/edge';
import { termCard, termsUnder } from '#server/lists/thesaurus';
import type { PageServerLoad } from './$types';

/** The top of the thesaurus, and the term the address names. */
export const load: PageServerLoad = (event) =>
  page(async () => {
    event.depends('mindful:lists');
    const { house } = event.locals;
    const actor = actorOf(event);
    const id = z.uuid().safeParse(event.url.searchParams.get('term')).data;
    const [top, card] = await Promise.all([
      termsUnder(house, actor, null),
      id ? termCard(house, actor, id) : null,
    ]);
    return { top, card };
  });
