import {
  error as httpError,
  isHttpError,
  isRedirect,
  json,
  type RequestEvent,
} from '@sveltejs/kit';
import { z } from 'zod';
import { ArchiveError } from '#core/errors';
import { can } from '#core/people/roles';
import { parseQuery } from '#core/query/grammar';
import { EVERYTHING, type Query } from '#core/query/tree';
import { withoutPaths } from '#core/text/paths';
import type { Actor } from '../auth/people';
import { isAway, isCancelled, isNonsense, isTaken } from '../db/problems';
import { isPlainText, isPlainValue } from './values';

/** An error as one of the closed set; null where it is a fault of ours. */
export function known(error: unknown): ArchiveError | null {
  if (error instanceof ArchiveError) return error;
  const cause = { cause: error };
  if (isNonsense(error))
    return new ArchiveError('bad-request', 'A value lies outside what there can be.', {}, cause);
  if (isTaken(error))
    return new ArchiveError('conflict', 'Somebody else gave this name just now.', {}, cause);
  if (isCancelled(error))
    return new ArchiveError(
      'too-slow',
      'This takes too long to find out; ask for less at once.',
      {},
      cause,
    );
  if (isAway(error))
    return new ArchiveError(
      'database-away',
      'The database does not answer just now; try again in a moment.',
      {},
      cause,
    );
  return null;
}

/** Where folders lie is told to those who bring in or keep. */
const wordsFor = (actor: Actor | null, sentence: string): string =>
  actor && can(actor.role, 'intake') ? sentence : withoutPaths(sentence);

const dataFor = (actor: Actor | null, data: ArchiveError['data']): ArchiveError['data'] =>
  Object.fromEntries(
    Object.entries(data).map(([key, value]) => [
      key,
      typeof value === 'string' ? wordsFor(actor, value) : value,
    ]),
  );

/** The edge: typed errors become HTTP problem details (RFC 9457) or pages, input is parsed before use. */
export function problem(error: ArchiveError, actor: Actor | null): Response {
  const body = {
    type: `urn:mindful:${error.code}`,
    title: wordsFor(actor, error.message),
    status: error.status,
    ...dataFor(actor, error.data),
  };
  const headers = new Headers({
    'content-type': 'application/problem+json',
    'cache-control': 'no-store',
  });
  // What is still being sent is not read: nobody may take it for the next request.
  if (error.status === 413) headers.set('connection', 'close');
  if (error.status === 429) headers.set('retry-after', String(error.data['retryAfter'] ?? 60));
  return new Response(JSON.stringify(body), { status: error.status, headers });
}

/** What was asked for was given up because the visitor went away. */
export const isGone = (error: unknown): boolean =>
  error instanceof Error && error.name === 'AbortError';

const LARGEST_ID_LIST = 5_000_000;

/** A handler that carries in its type what it takes, is asked and answers: what the client of the wire is told of it. */
export type Handler<A, Taken = undefined, Asked = undefined> = ((
  event: RequestEvent,
) => Promise<Response>) & {
  readonly answers?: A;
  readonly takes?: Taken;
  readonly asks?: Asked;
};
/** What a request holds: the schema of its JSON body, of so many bytes at most. */
export interface BodyContract<S extends z.ZodType> {
  body: S;
  most?: number;
}
/** What an address asks behind its path: the schema of its parameters. */
export interface QueryContract<S extends z.ZodType> {
  query: S;
}

/** An endpoint that answers JSON, or a Response of its own; with a contract it is handed what was sent, checked. */
export function endpoint<A>(run: (event: RequestEvent) => Promise<A>): Handler<A>;
export function endpoint<A, S extends z.ZodType>(
  contract: BodyContract<S>,
  run: (event: RequestEvent, body: z.output<S>) => Promise<A>,
): Handler<A, z.input<S>>;
export function endpoint<A, S extends z.ZodType>(
  contract: QueryContract<S>,
  run: (event: RequestEvent, wish: z.output<S>) => Promise<A>,
): Handler<A, undefined, z.input<S>>;
export function endpoint<A, S extends z.ZodType>(
  ...given:
    | [run: (event: RequestEvent) => Promise<A>]
    | [
        contract: BodyContract<S> | QueryContract<S>,
        run: (event: RequestEvent, sent: z.output<S>) => Promise<A>,
      ]
): Handler<A, z.input<S>, z.input<S>> {
  return async (event: RequestEvent): Promise<Response> => {
    try {
      const answer = await (given.length === 1
        ? given[0](event)
        : given[1](event, await sentBy(event, given[0])));
      if (answer instanceof Response) return answer;
      return answer === undefined ? new Response(null, { status: 204 }) : json(answer);
    } catch (error) {
      const { actor, house } = event.locals;
      const told = known(error);
      if (told) return problem(told, actor);
      if (isHttpError(error) || isRedirect(error)) throw error;
      // Who asked is gone: nobody hears the answer.
      if (isGone(error)) return new Response(null, { status: 499 });
      house.log.error(
        { route: event.route.id, error: String(error), stack: (error as Error).stack },
        'endpoint failed',
      );
      const sentence = 'Something went wrong here; it has been noted.';
      return problem(new ArchiveError('unexpected', sentence), actor);
    }
  };
}

/** A page's load whose typed errors become the designed error page. */
export async function page<T>(run: () => Promise<T>): Promise<T> {
  try {
    return await run();
  } catch (error) {
    const told = known(error);
    if (told) httpError(told.status, { message: withoutPaths(told.message), code: told.code });
    throw error;
  }
}

/** Check a value by its schema. @throws ArchiveError value-refused naming the field */
export function checked<S extends z.ZodType>(schema: S, value: unknown): z.output<S> {
  if (!isPlainValue(value))
    throw new ArchiveError('bad-request', 'A text holds characters that no text has.');
  const parsed = schema.safeParse(value);
  if (parsed.success) return parsed.data;
  const issue = parsed.error.issues[0]!;
  const where = issue.path.length > 0 ? `${issue.path.join('.')}: ` : '';
  throw new ArchiveError('value-refused', `${where}${issue.message}`);
}

/**
 * What a request sent by its contract, checked: the parameters of its address, or its JSON body of so many bytes at most.
 * @throws ArchiveError bad-request, value-refused, too-large
 */
async function sentBy<S extends z.ZodType>(
  event: RequestEvent,
  contract: BodyContract<S> | QueryContract<S>,
): Promise<z.output<S>> {
  if ('query' in contract)
    return checked(contract.query, Object.fromEntries(event.url.searchParams));
  const { body: schema, most = LARGEST_ID_LIST } = contract;
  if (Number(event.request.headers.get('content-length') ?? 0) > most)
    throw new ArchiveError('too-large', 'This request is too large.');
  let value: unknown;
  try {
    value = await event.request.json();
  } catch (error) {
    throw new ArchiveError('bad-request', 'The request holds no JSON.', {}, { cause: error });
  }
  return checked(schema, value);
}

/** More than any form of ours holds. */
const LARGEST_FORM = 16 << 10;
const MOST_FIELDS = 40;

/**
 * The fields of a form that was sent; files, texts no database holds, and more than a form has, are refused before they are
 * parsed. @throws HTTP error 400, 413
 */
export async function formOf(event: { request: Request }): Promise<Record<string, string>> {
  if (!(Number(event.request.headers.get('content-length') ?? Infinity) <= LARGEST_FORM))
    httpError(413, { message: 'This form is too large.', code: 'too-large' });
  let form: FormData;
  try {
    form = await event.request.formData();
  } catch {
    httpError(400, { message: 'The request holds no form.', code: 'bad-request' });
  }
  const fields: Record<string, string> = {};
  let count = 0;
  for (const [name, value] of form) {
    count += 1;
    if (count > MOST_FIELDS)
      httpError(413, { message: 'This form has too many fields.', code: 'too-large' });
    if (typeof value !== 'string' || !isPlainText(name) || !isPlainText(value))
      httpError(400, { message: 'A field holds what no text has.', code: 'bad-request' });
    fields[name] = value;
  }
  return fields;
}

/** Who acts; doors have made sure that somebody does. */
export function actorOf(event: { locals: App.Locals }): Actor {
  if (!event.locals.actor) throw new ArchiveError('sign-in-needed', 'Sign in first.');
  return event.locals.actor;
}

/** Parameters of an address: numbers and the query, as they are written there. */
export const numberAsked = z.coerce.number<number>();
export const wholeAsked = numberAsked.int();
export const queryAsked = z.string().default('').transform(parseQuery);

/** The query an address asks, read. @throws ArchiveError query-unclear */
export const queryOf = (url: URL): Query => parseQuery(url.searchParams.get('q') ?? '');

/** As {@link queryOf}, for pages: an address nobody understands shows everything and says why. */
export function pageQueryOf(url: URL): { query: Query; unclear: string | null } {
  try {
    return { query: queryOf(url), unclear: null };
  } catch (error) {
    if (error instanceof ArchiveError) return { query: EVERYTHING, unclear: error.message };
    throw error;
  }
}
