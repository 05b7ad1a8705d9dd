import { z } from 'zod';
import { ArchiveError } from '#core/errors';
import { filedLast } from '#core/naming/wish';
import { can } from '#core/people/roles';
import { actorOf, checked, page } from '#server/edge/edge';
import { latestPictures, report } from '#server/intake/report/report';
import { emptyingOf } from '#server/intake/run/release';
import { rememberedOf } from '#server/people/remembered';
import type { PageServerLoad } from './$types';

const SHOWN_PICTURES = 24;
const wishSchema = z.object({
  shows: z.enum(['all', 'done', 'skipped', 'failed']).catch('all'),
  /** Lines of the table. */
  most: z.coerce.number().int().min(1).max(100_000).catch(300),
});

/** The report of one accession, by its number. */
export const load: PageServerLoad = ({ locals, params, url, depends }) =>
  page(async () => {
    depends('mindful:accession');
    const { house } = locals;
    const actor = actorOf({ locals });
    const { shows, most } = checked(wishSchema, Object.fromEntries(url.searchParams));
    const [, year, number] = /^(\d{4})\.(\d{3,9})$/.exec(params.number) ?? [];
    const row =
      year &&
      (await house.db
        .selectFrom('accession')
        .select('id')
        .where('year', '=', Number(year))
        .where('number', '=', Number(number))
        .executeTakeFirst());
    if (!row) throw new ArchiveError('not-found', `There is no accession “${params.number}”.`);
    return {
      report: await report(house.db, row.id, { shows, limit: most }),
      pictures: await latestPictures(house.db, row.id, SHOWN_PICTURES),
      shows,
      most,
      /** How files were filed last; null where whoever looks may not. */
      filing: can(actor.role, 'rename')
        ? filedLast((await rememberedOf(house.db, actor.id, ['filing-plan']))['filing-plan'])
        : null,
      emptying: await emptyingOf(house, row.id),
    };
  });
