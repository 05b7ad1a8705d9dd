import { Readable } from 'node:stream';
import contentDisposition from 'content-disposition';
import { checked, endpoint } from '#server/edge/edge';
import { ledgerCsv, ledgerWishSchema } from '#server/ledger/export';
import type { RequestHandler } from './$types';

/** The ledger as a table, every step with what was before and after. */
export const GET: RequestHandler = endpoint(({ locals, url }) => {
  const wish = checked(ledgerWishSchema, Object.fromEntries(url.searchParams));
  const lines = Readable.from(ledgerCsv(locals.house.db, wish), { objectMode: false });
  return Promise.resolve(
    new Response(Readable.toWeb(lines) as ReadableStream, {
      headers: {
        'content-type': 'text/csv; charset=utf-8',
        'content-disposition': contentDisposition('ledger.csv'),
        'cache-control': 'no-store',
      },
    }),
  );
});
