import type { Handle, HandleServerError, RequestEvent, ServerInit } from '@sveltejs/kit';
import { error as refuse, redirect } from '@sveltejs/kit';
import { ArchiveError } from '#core/errors';
import type { Role } from '#core/people/roles';
import { makeAuth, type Auth } from '#server/auth/auth';
import { checkDoor } from '#server/auth/doors';
import { hasPeople } from '#server/auth/people';
import { problem } from '#server/edge/edge';
import { openHouse, type House } from '#server/house/house';
import { isBehindTls } from '#server/house/settings';
import { startListening } from '#server/live/listen';

let house: House;
let auth: Auth;
let live: ReturnType<typeof startListening>;

const PARENT_EVERY_MS = 1000;

/** When the process that keeps us running dies without a word, the port must not stay taken. */
function endWithParent(): void {
  const parent = process.ppid;
  setInterval(() => {
    if (process.ppid !== parent) process.exit(0);
  }, PARENT_EVERY_MS).unref();
}

export const init: ServerInit = () => {
  if (process.env['MINDFUL_SUPERVISED']) endWithParent();
  house = openHouse();
  auth = makeAuth(house);
  live = startListening(house);
};

/** A request that changes something must come from our own pages: its Origin names the host it was sent to. */
function checkOrigin({ request, url }: RequestEvent): void {
  if (['GET', 'HEAD', 'OPTIONS'].includes(request.method)) return;
  const origin = request.headers.get('origin');
  const site = request.headers.get('sec-fetch-site');
  if (site && site !== 'same-origin' && site !== 'none')
    throw new ArchiveError('not-allowed', 'This request came from another site.');
  if (!origin || site === 'same-origin') return;
  const allowed = [
    request.headers.get('host'),
    url.host,
    house.settings.origin && new URL(house.settings.origin).host,
  ];
  if (!URL.canParse(origin) || !allowed.includes(new URL(origin).host))
    throw new ArchiveError('not-allowed', 'This request came from another site.');
}

const LARGEST_BODY = 8 << 20;

/** Only uploads may be large, or of a size nobody tells. */
function checkSize({ request, url }: RequestEvent): void {
  if (!request.body || url.pathname.startsWith('/api/uploads')) return;
  const size = request.headers.get('content-length');
  if (size === null || Number(size) > LARGEST_BODY)
    throw new ArchiveError('bad-request', 'This request is too large.');
}

function secure(response: Response): Response {
  const { headers } = response;
  headers.set('x-content-type-options', 'nosniff');
  headers.set('x-frame-options', 'DENY');
  headers.set('referrer-policy', 'same-origin');
  headers.set('cross-origin-opener-policy', 'same-origin');
  headers.set('cross-origin-resource-policy', 'same-origin');
  headers.set('permissions-policy', 'camera=(), microphone=(), geolocation=()');
  if (isBehindTls(house.settings)) headers.set('strict-transport-security', 'max-age=31536000');
  if (!headers.has('cache-control')) headers.set('cache-control', 'no-store');
  return response;
}

async function signedIn(event: RequestEvent): Promise<void> {
  event.locals.actor = null;
  event.locals.sessionToken = '';
  if (!event.request.headers.get('cookie')?.includes('mindful.')) return;
  const found = await auth.api.getSession({ headers: event.request.headers });
  if (!found) return;
  const { id, name, email, role } = found.user;
  event.locals.actor = { id, name, email, role: role as Role };
  event.locals.sessionToken = found.session.token;
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
  return problem(error);
}

export const handle: Handle = async ({ event, resolve }) => {
  Object.assign(event.locals, { house, auth, hear: live.hear });
  try {
    checkOrigin(event);
    checkSize(event);
    await signedIn(event);
    // An unknown address has no route: the designed page says so, to everyone.
    if (event.route.id !== null)
      checkDoor(event.route.id, event.request.method, event.locals.actor);
  } catch (error) {
    if (!(error instanceof ArchiveError)) throw error;
    return secure(await turnAway(event, error));
  }
  return secure(await resolve(event));
};

export const handleError: HandleServerError = ({ error, event, status, message }) => {
  if (error instanceof ArchiveError) return { message: error.message, code: error.code };
  if (status === 404) return { message: 'There is nothing at this address.', code: 'not-found' };
  house.log.error(
    { path: event.url.pathname, error: String(error), stack: (error as Error)?.stack },
    'request failed',
  );
  return {
    message: status === 500 ? 'Something went wrong here; it has been noted.' : message,
    code: 'unexpected',
  };
};
