import { z } from 'zod';
import { ArchiveError } from '#core/errors';
import { actorOf, page } from '#server/edge/edge';
import { termCard, termsUnder } from '#server/lists/thesaurus';
import type { PageServerLoad } from './$types';

const nothingThere = (error: unknown): null => {
  if (error instanceof ArchiveError && error.code === 'not-found') return null;
  throw error;
};

/** The top of the thesaurus, and the term the address names. */
export const load: PageServerLoad = (event) =>
  page(async () => {
    event.depends('mindful:lists');
    const { house } = event.locals;
    const actor = actorOf(event);
    const id = z.uuid().safeParse(event.url.searchParams.get('term')).data;
    const [top, card] = await Promise.all([
      termsUnder(house, actor, null),
      // One that was merged or taken off the list meanwhile is no error: the page says so.
      id ? termCard(house, actor, id).catch(nothingThere) : null,
    ]);
    return { top, card, isGone: id !== undefined && card === null };
  });
