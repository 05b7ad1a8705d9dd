import { z } from 'zod';
import { checked, endpoint } from '#server/edge/edge';
import { attachment } from '#server/edge/send';
import { report, reportCsv } from '#server/intake/report/report';

/** The report as CSV, to be saved. */
export const GET = endpoint(async ({ locals, params }) => {
  const told = await report(locals.house.db, checked(z.uuid(), params['id']));
  return new Response(reportCsv(told), {
    headers: {
      'content-type': 'text/csv; charset=utf-8',
      'content-disposition': attachment(`Accession ${told.number}.csv`),
    },
  });
});
