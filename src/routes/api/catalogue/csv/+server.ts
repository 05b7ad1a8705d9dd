import { Readable } from 'node:stream';
import contentDisposition from 'content-disposition';
import { z } from 'zod';
import { pickedSchema } from '#core/query/picked';
import { idsOfPicked } from '#server/catalogue/picked';
import { columnsSchema, csvOf } from '#server/catalogue/sheet';
import { actorOf, body, endpoint } from '#server/edge/edge';
import type { RequestHandler } from './$types';

const wishSchema = z.object({ ids: pickedSchema, fields: columnsSchema });

/** What is chosen as a table, with the columns of the Register. */
export const POST: RequestHandler = endpoint(async (event) => {
  const { ids: picked, fields } = await body(event, wishSchema);
  const { house } = event.locals;
  const viewer = actorOf(event);
  const ids = await idsOfPicked(house, viewer, picked);
  const lines = Readable.from(csvOf(house, viewer, ids, fields), { objectMode: false });
  return new Response(Readable.toWeb(lines) as ReadableStream, {
    headers: {
      'content-type': 'text/csv; charset=utf-8',
      'content-disposition': contentDisposition('register.csv'),
      'cache-control': 'no-store',
    },
  });
});
