import { Readable } from 'node:stream';
import contentDisposition from 'content-disposition';
import parseRange from 'range-parser';
import { ArchiveError } from '#core/errors';
import { openPlain } from '../files/open';

/** To be saved under this name (RFC 6266). */
export const attachment = (name: string): string =>
  // eslint-disable-next-line no-control-regex -- a header's value ends at a line
  contentDisposition(name.replace(/[\u0000-\u001f\u007f]/g, '_').toWellFormed(), {
    fallback: name.replace(/[^\x20-\x7e]|["\\%]/g, '_'),
  });

/** The one range asked for (RFC 9110, 14.2); several, or none that makes sense, are answered with the whole. */
function rangeOf(header: string | null, size: number): { start: number; end: number } | null {
  if (!header || size === 0) return null;
  // "If the selected representation is shorter than the specified suffix-length, the entire representation is
  // used." (RFC 9110, 14.1.2)
  if (Number(/^bytes=-(\d+)$/.exec(header)?.[1]) >= size) return { start: 0, end: size - 1 };
  const ranges = parseRange(size, header);
  const [range] = Array.isArray(ranges) && ranges.type === 'bytes' ? ranges : [];
  return range && Array.isArray(ranges) && ranges.length === 1 ? range : null;
}

export interface SendOptions {
  type: string;
  /** Sent to be saved under this name. */
  saveAs?: string;
  /** The address changes when the bytes do. */
  forever?: boolean;
}

/**
 * Send a file, whole or the range asked for (RFC 9110, 14). It is opened without following links, and what was
 * opened is what is sent. What guests or uploads brought is never shown as a page: it goes out under a sandbox.
 * @throws ArchiveError not-found where it is not there, outside-place where a link is on the way
 */
export async function sendFile(
  request: Request,
  path: string,
  options: SendOptions,
): Promise<Response> {
  const handle = await openPlain(path).catch((error: unknown) => {
    const sentence = 'This file is not there at the moment.';
    throw new ArchiveError('not-found', sentence, {}, { cause: error });
  });
  try {
    const { size } = await handle.stat();
    const headers = new Headers({
      'content-type': options.type,
      'accept-ranges': 'bytes',
      'content-security-policy': "sandbox; default-src 'none'",
      'x-content-type-options': 'nosniff',
      'cache-control': options.forever
        ? 'private, max-age=31536000, immutable'
        : 'private, no-store',
    });
    if (options.saveAs) headers.set('content-disposition', attachment(options.saveAs));
    const range = rangeOf(request.headers.get('range'), size);
    const { start, end } = range ?? { start: 0, end: size - 1 };
    headers.set('content-length', String(end - start + 1));
    if (range) headers.set('content-range', `bytes ${start}-${end}/${size}`);
    const status = range ? 206 : 200;
    if (size === 0 || request.method === 'HEAD') {
      await handle.close();
      return new Response(null, { status, headers });
    }
    // The stream closes the handle at its end, and when whoever asked goes away.
    const stream = handle.createReadStream({ start, end });
    return new Response(Readable.toWeb(stream) as ReadableStream, { status, headers });
  } catch (error) {
    await handle.close();
    throw error;
  }
}
