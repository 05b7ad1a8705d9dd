import type { AnswerOf, Asking, Sent } from './wire';

/** Talk to the server; problems (RFC 9457) are thrown as errors with the server's sentence. */
export class Problem extends Error {
  constructor(
    sentence: string,
    readonly code: string,
    readonly status: number,
    /** What the server says beside its sentence. */
    readonly data: Record<string, unknown> = {},
  ) {
    super(sentence);
  }
}

/** A proxy, or a server that is just starting, answers with a page of its own: that is no sentence for anybody. */
function parsed(text: string): unknown {
  try {
    return text ? JSON.parse(text) : undefined;
  } catch {
    return undefined;
  }
}

async function answer<T>(response: Response): Promise<T> {
  if (response.status === 204) return undefined as T;
  const text = await response.text();
  const value = parsed(text);
  if (response.ok) return value as T;
  const { title, type } = (value ?? {}) as { title?: string; type?: string };
  throw new Problem(
    title ?? `The server answered ${response.status}.`,
    type?.replace('urn:mindful:', '') ?? '',
    response.status,
    (value ?? {}) as Record<string, unknown>,
  );
}

/** Bytes of all bodies a browser sends on after their page has gone are limited to 64 KiB (Fetch Standard, 4.6). */
const KEPT_ALIVE = 2048;

async function call<T>(method: string, path: string, body?: unknown): Promise<T> {
  const text = body === undefined ? null : JSON.stringify(body);
  let response: Response;
  try {
    response = await fetch(path, {
      method,
      // What somebody did is done, also where they leave the page at once.
      keepalive: method !== 'GET' && (text ?? '').length < KEPT_ALIVE,
      ...(text === null ? {} : { body: text, headers: { 'content-type': 'application/json' } }),
    });
  } catch {
    throw new Problem(
      'The server cannot be reached. It will be tried again when you act again.',
      'away',
      0,
    );
  }
  return answer<T>(response);
}

export const api = {
  get: <P extends string>(path: P, ...[query]: Asking<P>): Promise<AnswerOf<'GET', P>> => {
    const search = new URLSearchParams(
      Object.entries(query ?? {}).map(([key, value]) => [key, String(value)]),
    ).toString();
    return call('GET', search ? `${path}?${search}` : path);
  },
  post: <P extends string>(path: P, ...[body]: Sent<'POST', P>): Promise<AnswerOf<'POST', P>> =>
    call('POST', path, body),
  patch: <P extends string>(path: P, ...[body]: Sent<'PATCH', P>): Promise<AnswerOf<'PATCH', P>> =>
    call('PATCH', path, body),
  put: <P extends string>(path: P, ...[body]: Sent<'PUT', P>): Promise<AnswerOf<'PUT', P>> =>
    call('PUT', path, body),
  delete: <P extends string>(
    path: P,
    ...[body]: Sent<'DELETE', P>
  ): Promise<AnswerOf<'DELETE', P>> => call('DELETE', path, body),
};
