import { isIP } from 'node:net';
import type { IncomingMessage } from 'node:http';
import type { RequestEvent } from '@sveltejs/kit';
import proxyAddress from 'proxy-addr';
import { ArchiveError } from '#core/errors';
import type { Settings } from '../house/settings';

/** Who visits, and under which name: what a request says of itself counts only as far as it can be trusted. */
type Trust = (address: string, hop: number) => boolean;

const trusts = new WeakMap<Settings, Trust>();

/** Whose `X-Forwarded-For` is believed: the proxies the keeper named, nobody by default. */
function trustOf(settings: Settings): Trust {
  let trust = trusts.get(settings);
  if (!trust) trusts.set(settings, (trust = proxyAddress.compile(settings.trustedProxies)));
  return trust;
}

const rawOf = (event: RequestEvent): IncomingMessage | undefined =>
  (event.platform as { req?: IncomingMessage } | undefined)?.req;

/** Network address of the visitor. */
export function addressOf(event: RequestEvent): string {
  const raw = rawOf(event);
  if (!raw?.socket.remoteAddress) return event.getClientAddress();
  return proxyAddress(raw, trustOf(event.locals.house.settings));
}

const LOOPBACK = /^(localhost|127(\.\d{1,3}){3}|\[::1\])$/i;

/** The host of a URL without its port, `[::1]` in brackets. */
const nameOf = (host: string): string | null =>
  URL.canParse(`http://${host}`) ? new URL(`http://${host}`).hostname : null;

/**
 * Whether a host is a name of ours: the public address, loopback, or the very address the visitor connected to.
 * Any other name may be somebody else's that was made to lead here.
 */
export function isOurHost(event: RequestEvent, host: string | null): boolean {
  if (!host) return false;
  const { origin } = event.locals.house.settings;
  if (origin && host.toLowerCase() === new URL(origin).host) return true;
  const name = nameOf(host);
  if (name === null) return false;
  if (LOOPBACK.test(name)) return true;
  const address = name.replace(/^\[|\]$/g, '');
  const local = rawOf(event)?.socket.localAddress?.replace(/^::ffff:/i, '');
  return isIP(address) !== 0 && address === local;
}

/** @throws ArchiveError wrong-host */
export function checkHost(event: RequestEvent): void {
  if (!isOurHost(event, event.request.headers.get('host')))
    throw new ArchiveError(
      'wrong-host',
      'This archive does not answer to that name. Its keeper sets its public address with ORIGIN.',
    );
}

/** A request that changes something must come from our own pages. @throws ArchiveError not-allowed */
export function checkOrigin(event: RequestEvent): void {
  const { request } = event;
  if (['GET', 'HEAD', 'OPTIONS'].includes(request.method)) return;
  const refusal = new ArchiveError('not-allowed', 'This request came from another site.');
  const site = request.headers.get('sec-fetch-site');
  if (site && site !== 'same-origin' && site !== 'none') throw refusal;
  const origin = request.headers.get('origin');
  if (!origin || site === 'same-origin') return;
  const { settings } = event.locals.house;
  const allowed = [request.headers.get('host'), settings.origin && new URL(settings.origin).host];
  if (!URL.canParse(origin) || !allowed.includes(new URL(origin).host)) throw refusal;
}

/** Fires when whoever asked has gone away. */
export function goneSignal(event: RequestEvent): { signal: AbortSignal; end: () => void } {
  const gone = new AbortController();
  const socket = rawOf(event)?.socket;
  const abort = (): void => gone.abort();
  // Of a socket that closed before nothing is told any more.
  if (socket?.destroyed) abort();
  else socket?.once('close', abort);
  return { signal: gone.signal, end: () => socket?.removeListener('close', abort) };
}

/** An address of this site: its path and query, or where one goes without. */
export function ownAddress(wished: string | null, otherwise: string): string {
  const own = 'http://own.invalid';
  if (!wished?.startsWith('/') || !URL.canParse(wished, own)) return otherwise;
  const url = new URL(wished, own);
  if (url.origin !== own) return otherwise;
  const path = url.pathname + url.search;
  // `/.//x` and its kin are read as `//x` by the next reader.
  return path.startsWith('//') ? otherwise : path;
}
