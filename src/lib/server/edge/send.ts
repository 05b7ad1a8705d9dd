import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { Readable } from 'node:stream';
import { ArchiveError } from '#core/errors';
import { bytesOfPath } from '../files/paths';

/** `attachment; filename*=UTF-8''…` (RFC 6266), with a plain name for old readers. */
export function attachment(name: string): string {
  const plain = name.replace(/[^\x20-\x7e]|["\\]/g, '_');
  const encoded = encodeURIComponent(name).replace(
    /['()*]/g,
    (c) => `%${c.charCodeAt(0).toString(16).toUpperCase()}`,
  );
  return `attachment; filename="${plain}"; filename*=UTF-8''${encoded}`;
}

function rangeOf(header: string | null, size: number): { from: number; to: number } | null {
  const match = /^bytes=(\d*)-(\d*)$/.exec(header ?? '');
  if (!match || (match[1] === '' && match[2] === '')) return null;
  const from = match[1] === '' ? Math.max(0, size - Number(match[2])) : Number(match[1]);
  const to = match[1] === '' || match[2] === '' ? size - 1 : Math.min(size - 1, Number(match[2]));
  return from <= to && from < size ? { from, to } : null;
}

export interface SendOptions {
  type: string;
  /** Sent to be saved under this name. */
  saveAs?: string;
  /** The address changes when the bytes do. */
  forever?: boolean;
}

/**
 * Send a file, whole or the range asked for (RFC 9110, 14). What guests or uploads brought is never shown as
 * a page: it goes out under a sandbox.
 */
export async function sendFile(
  request: Request,
  path: string,
  options: SendOptions,
): Promise<Response> {
  const facts = await stat(bytesOfPath(path)).catch((error: unknown) => {
    throw new ArchiveError(
      'not-found',
      'This file is not there at the moment.',
      {},
      { cause: error },
    );
  });
  const headers = new Headers({
    'content-type': options.type,
    'accept-ranges': 'bytes',
    'content-security-policy': "sandbox; default-src 'none'",
    'x-content-type-options': 'nosniff',
    'cache-control': options.forever ? 'private, max-age=31536000, immutable' : 'private, no-store',
  });
  if (options.saveAs) headers.set('content-disposition', attachment(options.saveAs));
  const range = rangeOf(request.headers.get('range'), facts.size);
  const { from, to } = range ?? { from: 0, to: facts.size - 1 };
  headers.set('content-length', String(to - from + 1));
  if (range) headers.set('content-range', `bytes ${from}-${to}/${facts.size}`);
  const empty = facts.size === 0 || request.method === 'HEAD';
  const stream = empty ? null : createReadStream(bytesOfPath(path), { start: from, end: to });
  return new Response(stream && (Readable.toWeb(stream) as ReadableStream), {
    status: range ? 206 : 200,
    headers,
  });
}
