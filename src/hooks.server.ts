import type { Handle, HandleServerError, RequestEvent, ServerInit } from '@sveltejs/kit';
import { error as refuse, redirect } from '@sveltejs/kit';
import { ArchiveError } from '#core/errors';
import type { Role } from '#core/people/roles';
import { makeAuth, type Auth } from '#server/auth/auth';
import { bearerOf, checkScope } from '#server/auth/apiTokens';
import { checkDoor, needOf } from '#server/auth/doors';
import { hasPeople } from '#server/auth/people';
import { whileWanted } from '#server/db/connect';
import { known, problem, isGone } from '#server/edge/edge';
import { SECURITY_HEADERS } from '$lib/server/edge/headers.js';
import { isPlainText } from '#server/edge/values';
import { inTurn } from '#server/edge/turns';
import { checkHost, checkOrigin, goneSignal } from '#server/edge/visitor';
import { openHouse, type House } from '#server/house/house';
import { isBehindTls, readSettings } from '#server/house/settings';
import { startStreams, type Streams } from '#server/live/streams';

let house: House;
let auth: Auth;
let streams: Streams;

const PARENT_EVERY_MS = 1000;
const POOL = 10;

/** When the process that keeps us running dies without a word, the port must not stay taken. */
function endWithParent(): void {
  const parent = process.ppid;
  setInterval(() => {
    if (process.ppid !== parent) process.exit(0);
  }, PARENT_EVERY_MS).unref();
}

export const init: ServerInit = () => {
  if (process.env['MINDFUL_SUPERVISED']) endWithParent();
  house = openHouse(readSettings(), POOL, 'page');
  auth = makeAuth(house);
  streams = startStreams(house);
};

const LARGEST_BODY = 8 << 20;
/** What anybody may send: a name, a password, a remark. */
const LARGEST_OF_STRANGERS = 8 << 10;

/** Only uploads of those who bring in may be large, or of a size nobody tells; nothing is read before this was looked at. */
function checkSize({ request, url, locals, route }: RequestEvent): void {
  if (!request.body) return;
  const isOpen = needOf(route.id ?? '', request.method) === 'anyone';
  const isKnown = locals.actor !== null && !isOpen;
  if (isKnown && url.pathname.startsWith('/api/uploads')) return;
  const size = request.headers.get('content-length');
  if (size === null || Number(size) > (isKnown ? LARGEST_BODY : LARGEST_OF_STRANGERS))
    throw new ArchiveError('too-large', 'This request is too large.');
}

/** No text of ours holds a NUL, and addresses are text. */
function checkAddress({ url, params }: RequestEvent): void {
  const values = [...url.searchParams].flat();
  if (![...values, ...Object.values(params)].every(isPlainText))
    throw new ArchiveError('bad-request', 'This address holds characters that no text has.');
}

function secure(response: Response): Response {
  const { headers } = response;
  for (const [name, value] of Object.entries(SECURITY_HEADERS))
    if (!headers.has(name)) headers.set(name, value);
  if (isBehindTls(house.settings)) headers.set('strict-transport-security', 'max-age=31536000');
  if (!headers.has('cache-control')) headers.set('cache-control', 'no-store');
  return response;
}

async function signedIn(event: RequestEvent): Promise<void> {
  event.locals.actor = null;
  event.locals.sessionId = '';
  event.locals.scopes = null;
  const bearer = await bearerOf(house.db, event.request.headers);
  if (bearer) {
    event.locals.actor = bearer.actor;
    event.locals.scopes = bearer.scopes;
    return;
  }
  if (!event.request.headers.get('cookie')?.includes('mindful.')) return;
  const found = await auth.api.getSession({ headers: event.request.headers });
  if (!found || found.user.shutOutAt) return;
  const { id, name, email, role } = found.user;
  event.locals.actor = { id, name, email, role: role as Role };
  event.locals.sessionId = found.session.id;
}

/** Pages send people to the door that opens; everything else answers with the problem. */
async function turnAway(event: RequestEvent, error: ArchiveError): Promise<Response> {
  const wantsPage = event.request.method === 'GET' && !event.url.pathname.startsWith('/api/');
  if (error.code === 'sign-in-needed' && wantsPage) {
    if (!(await hasPeople(house.db))) redirect(303, '/welcome');
    const wish = event.url.pathname + event.url.search;
    redirect(303, wish === '/' ? '/sign-in' : `/sign-in?to=${encodeURIComponent(wish)}`);
  }
  if (wantsPage && event.request.headers.get('accept')?.includes('text/html'))
    refuse(error.status as 403, error.message);
  return problem(error, event.locals.actor);
}

/** Posts that only ask. */
const ASKING_POSTS = [
  ...['/api/records', '/api/rename/material', '/api/filing/preview', '/api/intake/plan'],
];

/** Who only asks may go away, and the database need not go on; what is to be changed is finished. */
async function answer(event: RequestEvent, resolve: () => Promise<Response>): Promise<Response> {
  const asks =
    ['GET', 'HEAD'].includes(event.request.method) || ASKING_POSTS.includes(event.route.id ?? '');
  if (!asks) return resolve();
  const gone = goneSignal(event);
  try {
    return await whileWanted(gone.signal, resolve);
  } finally {
    gone.end();
  }
}

export const handle: Handle = async ({ event, resolve }) => {
  Object.assign(event.locals, { house, auth, streams, actor: null, sessionId: '', scopes: null });
  try {
    checkHost(event);
    checkOrigin(event);
    checkAddress(event);
    await signedIn(event);
    checkSize(event);
    // An unknown address has no route: the designed page says so, to everyone.
    if (event.route.id !== null)
      checkDoor(event.route.id, event.request.method, event.locals.actor);
    if (event.locals.scopes)
      checkScope(event.route.id ?? '', event.request.method, event.locals.scopes);
  } catch (error) {
    const told = known(error);
    if (!told) throw error;
    return secure(await turnAway(event, told));
  }
  try {
    return secure(await inTurn(event, () => answer(event, async () => resolve(event))));
  } catch (error) {
    const told = known(error);
    if (!told) throw error;
    return secure(await turnAway(event, told));
  }
};

export const handleError: HandleServerError = ({ error, event, status, message }) => {
  const told = known(error);
  if (told) return { message: told.message, code: told.code };
  if (status === 404) return { message: 'There is nothing at this address.', code: 'not-found' };
  // The route, never the address: addresses of reading rooms open them.
  if (status >= 500 && !isGone(error))
    house.log.error(
      { route: event.route.id, error: String(error), stack: (error as Error)?.stack },
      'request failed',
    );
  return {
    message: status === 500 ? 'Something went wrong here; it has been noted.' : message,
    code: 'unexpected',
  };
};
