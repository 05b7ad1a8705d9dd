import contentDisposition from 'content-disposition';
import { stringify } from 'csv-stringify/sync';
import { z } from 'zod';
import { harmless } from '#core/text/cells';
import { censusOf } from '#server/catalogue/census';
import { actorOf, endpoint, queryAsked } from '#server/edge/edge';

/** The figures as CSV: what, value, count. */
export const GET = endpoint({ query: z.object({ q: queryAsked }) }, async (event, { q }) => {
  const found = await censusOf(event.locals.house, actorOf(event), q);
  const lines: [string, string, number][] = [
    ['items', '', found.total],
    ['bytes', '', found.bytes],
    ...found.gaps.map(({ label, count }): [string, string, number] => ['missing', label, count]),
    ...found.fields.flatMap(({ label, choices, lacking }) => [
      ...choices.map((one): [string, string, number] => [label, harmless(one.label), one.count]),
      [label, '(none)', lacking] as [string, string, number],
    ]),
    ...found.hours.bins.map(({ at, count }): [string, string, number] => [
      'Hour of the day',
      at,
      count,
    ]),
    ...found.growth.bins.map(({ at, count }): [string, string, number] => [
      'Brought in',
      at,
      count,
    ]),
  ];
  return new Response(
    stringify(lines, { header: true, columns: ['figure', 'value', 'count'], bom: true }),
    {
      headers: {
        'content-type': 'text/csv; charset=utf-8',
        'content-disposition': contentDisposition('census.csv'),
        'cache-control': 'no-store',
      },
    },
  );
});
