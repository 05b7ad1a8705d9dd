import { ArchiveError } from '#core/errors';
import { page } from '#server/edge/edge';
import { report } from '#server/intake/report/report';
import { emptyingOf } from '#server/intake/run/release';
import type { PageServerLoad } from './$types';

/** The report of one accession, by its number. */
export const load: PageServerLoad = ({ locals, params, depends }) =>
  page(async () => {
    depends('mindful:accession');
    const { house } = locals;
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
      report: await report(house.db, row.id),
      emptying: await emptyingOf(house, row.id),
    };
  });
