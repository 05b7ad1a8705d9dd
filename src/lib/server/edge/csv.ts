import { Readable } from 'node:stream';
import contentDisposition from 'content-disposition';

/** A table to be kept as a file, sent as its lines are made. */
export function csvResponse(lines: AsyncIterable<string>, name: string): Response {
  const stream = Readable.toWeb(Readable.from(lines, { objectMode: false }));
  return new Response(stream as ReadableStream, {
    headers: {
      'content-type': 'text/csv; charset=utf-8',
      'content-disposition': contentDisposition(name),
      'cache-control': 'no-store',
    },
  });
}
