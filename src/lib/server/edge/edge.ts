import {
  error as httpError,
  isHttpError,
  isRedirect,
  json,
  type RequestEvent,
} from '@sveltejs/kit';
import type { z } from 'zod';
import { ArchiveError } from '#core/errors';
import type { Actor } from '../auth/people';

/** The edge: typed errors become HTTP problem details (RFC 9457) or pages, input is parsed before use. */
export function problem(error: ArchiveError): Response {
  const body = {
    type: `urn:mindful:${error.code}`,
    title: error.message,
    status: error.status,
    ...error.data,
  };
  return new Response(JSON.stringify(body), {
    status: error.status,
    headers: { 'content-type': 'application/problem+json', 'cache-control': 'no-store' },
  });
}

const LARGEST_ID_LIST = 5_000_000;

/** An endpoint that answers JSON, or a Response of its own. */
export function endpoint<E extends RequestEvent>(run: (event: E) => Promise<unknown>) {
  return async (event: E): Promise<Response> => {
    try {
      const answer = await run(event);
      if (answer instanceof Response) return answer;
      return answer === undefined ? new Response(null, { status: 204 }) : json(answer);
    } catch (error) {
      if (error instanceof ArchiveError) return problem(error);
      if (isHttpError(error) || isRedirect(error)) throw error;
      event.locals.house.log.error(
        { path: event.url.pathname, error: String(error), stack: (error as Error).stack },
        'endpoint failed',
      );
      return problem(
        new ArchiveError('unexpected', 'Something went wrong here; it has been noted.'),
      );
    }
  };
}

/** A page's load whose typed errors become the designed error page. */
export async function page<T>(run: () => Promise<T>): Promise<T> {
  try {
    return await run();
  } catch (error) {
    if (error instanceof ArchiveError)
      httpError(error.status, { message: error.message, code: error.code });
    throw error;
  }
}

/** Check a value by its schema. @throws ArchiveError value-refused naming the field */
export function checked<S extends z.ZodType>(schema: S, value: unknown): z.output<S> {
  const parsed = schema.safeParse(value);
  if (parsed.success) return parsed.data;
  const issue = parsed.error.issues[0]!;
  const where = issue.path.length > 0 ? `${issue.path.join('.')}: ` : '';
  throw new ArchiveError('value-refused', `${where}${issue.message}`);
}

/** The JSON body of a request, checked. @throws ArchiveError bad-request, value-refused */
export async function body<S extends z.ZodType>(
  event: RequestEvent,
  schema: S,
): Promise<z.output<S>> {
  if (Number(event.request.headers.get('content-length') ?? 0) > LARGEST_ID_LIST)
    throw new ArchiveError('bad-request', 'This request is too large.');
  let value: unknown;
  try {
    value = await event.request.json();
  } catch (error) {
    throw new ArchiveError('bad-request', 'The request holds no JSON.', {}, { cause: error });
  }
  return checked(schema, value);
}

/** Who acts; doors have made sure that somebody does. */
export function actorOf(event: { locals: App.Locals }): Actor {
  if (!event.locals.actor) throw new ArchiveError('sign-in-needed', 'Sign in first.');
  return event.locals.actor;
}
