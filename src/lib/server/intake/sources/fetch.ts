import { lookup as resolveName } from 'node:dns/promises';
import { createWriteStream } from 'node:fs';
import { request as httpRequest, type IncomingMessage } from 'node:http';
import { request as httpsRequest } from 'node:https';
import { BlockList, isIP } from 'node:net';
import { pipeline } from 'node:stream/promises';
import { Transform, Writable } from 'node:stream';
import { ArchiveError, sentenceOf } from '#core/errors';
import { isDiskFull } from '../../files/disk';
import type { House } from '../../house/house';

/** Addresses that are not of the open Internet (IANA special-purpose registries): never asked. */
const CLOSED = new BlockList();
for (const [network, prefix] of [
  ['0.0.0.0', 8],
  ['10.0.0.0', 8],
  ['100.64.0.0', 10],
  ['127.0.0.0', 8],
  ['169.254.0.0', 16],
  ['172.16.0.0', 12],
  ['192.0.0.0', 24],
  ['192.0.2.0', 24],
  ['192.88.99.0', 24],
  ['192.168.0.0', 16],
  ['198.18.0.0', 15],
  ['198.51.100.0', 24],
  ['203.0.113.0', 24],
  ['224.0.0.0', 4],
  ['240.0.0.0', 4],
] as const)
  CLOSED.addSubnet(network, prefix, 'ipv4');
for (const [network, prefix] of [
  // Unspecified, loopback and the deprecated IPv4-compatible addresses (RFC 4291, 2.5.5.1).
  ['::', 96],
  ['64:ff9b::', 96],
  ['64:ff9b:1::', 48],
  ['100::', 64],
  ['2001::', 23],
  ['2001:db8::', 32],
  ['2002::', 16],
  ['fc00::', 7],
  ['fe80::', 10],
  ['fec0::', 10],
  ['ff00::', 8],
] as const)
  CLOSED.addSubnet(network, prefix, 'ipv6');

/** Whether an address belongs to the open Internet. */
export function isOpenAddress(address: string): boolean {
  const mapped = /^::ffff:(\d+\.\d+\.\d+\.\d+)$/i.exec(address)?.[1];
  if (mapped) return isOpenAddress(mapped);
  if (/^::ffff:/i.test(address)) return false;
  const family = isIP(address);
  return family !== 0 && !CLOSED.check(address, family === 4 ? 'ipv4' : 'ipv6');
}

/** Seconds a site may be silent, a page may take, and a file may take. */
const SILENT = 30;
const PAGE_SECONDS = 60;
const FILE_SECONDS = 3600;
const LARGEST_PAGE = 10e6;
const MOST_REDIRECTS = 3;

const refused = (sentence: string, cause?: unknown): ArchiveError =>
  new ArchiveError('value-refused', sentence, {}, { cause });

/** An address somebody typed. @throws ArchiveError value-refused */
export function webAddress(text: string): URL {
  const typed = /^[a-z][a-z0-9+.-]*:/i.test(text.trim()) ? text.trim() : `https://${text.trim()}`;
  const url = URL.canParse(typed) ? new URL(typed) : null;
  if (!url || !/^https?:$/.test(url.protocol) || url.hostname === '')
    throw refused(`“${text}” is no web address.`);
  if (url.username || url.password)
    throw refused('An address with a name or password in it is not opened.');
  return url;
}

/** The one address to connect to, resolved and checked here so that nobody resolves it otherwise later. */
async function checkedAddress(
  house: House,
  url: URL,
): Promise<{ address: string; family: number }> {
  const host = url.hostname.replace(/^\[|\]$/g, '');
  const port = url.port || (url.protocol === 'https:' ? '443' : '80');
  let found: { address: string; family: number }[];
  try {
    found = await resolveName(host, { all: true });
  } catch (error) {
    throw refused(`“${host}” cannot be found.`, error);
  }
  const [first] = found;
  if (!first) throw refused(`“${host}” cannot be found.`);
  // The stand-ins that ship with the app are listed by address and port.
  if (house.settings.standIns.includes(`${first.address}:${port}`)) return first;
  if (!found.every(({ address }) => isOpenAddress(address)))
    throw refused(`“${host}” leads into a private network; it is not opened.`);
  return first;
}

/** Where a redirect leads, as long as it stays on the site. @throws ArchiveError value-refused */
function nextAddress(location: string, from: URL): URL {
  const next = URL.canParse(location, from) ? new URL(location, from) : null;
  if (!next || !/^https?:$/.test(next.protocol))
    throw refused(`“${from.host}” sends on to something that is no web address.`);
  if (next.username || next.password)
    throw refused(`“${from.host}” sends on to an address with a name or password in it.`);
  if (next.host !== from.host)
    throw refused(`“${from.host}” sends on to “${next.host}”; open that address itself.`);
  return next;
}

/** Ask for an address; redirects are followed within its own site only. */
async function ask(
  house: House,
  url: URL,
  seconds: number,
  left = MOST_REDIRECTS,
): Promise<{ url: URL; answer: IncomingMessage }> {
  const target = await checkedAddress(house, url);
  const answer = await new Promise<IncomingMessage>((resolve, reject) => {
    const request = (url.protocol === 'https:' ? httpsRequest : httpRequest)(
      url,
      {
        method: 'GET',
        headers: { 'user-agent': 'MindfulArchive', accept: 'text/html,image/*,*/*;q=0.5' },
        signal: AbortSignal.timeout(seconds * 1000),
        timeout: SILENT * 1000,
        lookup: (_host, options, done) => {
          if (options.all) done(null, [target]);
          else done(null, target.address, target.family);
        },
      },
      resolve,
    );
    request.on('timeout', () => request.destroy(new Error(`silent for ${SILENT} seconds`)));
    request.on('error', (error) =>
      reject(refused(`“${url.host}” does not answer: ${sentenceOf(error)}`, error)),
    );
    request.end();
  });
  const status = answer.statusCode ?? 0;
  if (status >= 300 && status < 400 && answer.headers.location) {
    answer.destroy();
    const next = nextAddress(answer.headers.location, url);
    if (left === 0) throw refused(`“${url.host}” sends on without end.`);
    return ask(house, next, seconds, left - 1);
  }
  if (status !== 200) {
    answer.destroy();
    throw refused(`“${url.host}” answered ${status}.`);
  }
  return { url, answer };
}

const limit = (most: number): Transform => {
  let count = 0;
  return new Transform({
    transform(chunk: Buffer, _encoding, done) {
      count += chunk.length;
      if (count > most) done(refused(`It is larger than ${Math.round(most / 1e6)} MB.`));
      else done(null, chunk);
    },
  });
};

/** Take an answer whole, within its bound and its time. @throws ArchiveError value-refused where it breaks off */
async function take(
  url: URL,
  answer: IncomingMessage,
  most: number,
  target: NodeJS.WritableStream,
): Promise<void> {
  try {
    await pipeline(answer, limit(most), target);
  } catch (error) {
    if (error instanceof ArchiveError || isDiskFull(error)) throw error;
    throw refused(`“${url.host}” broke off: ${sentenceOf(error)}`, error);
  }
}

/** The text of a page, or the type of what else lies there. */
export async function fetchPage(
  house: House,
  address: URL,
): Promise<{ url: URL; type: string; text: string }> {
  const { url, answer } = await ask(house, address, PAGE_SECONDS);
  const type = (answer.headers['content-type'] ?? '').split(';')[0]!.trim().toLowerCase();
  if (type !== 'text/html' && type !== 'application/xhtml+xml') {
    answer.destroy();
    return { url, type, text: '' };
  }
  const parts: Buffer[] = [];
  const keep = new Writable({
    write(part: Buffer, _encoding, done) {
      parts.push(part);
      done();
    },
  });
  await take(url, answer, LARGEST_PAGE, keep);
  return { url, type, text: Buffer.concat(parts).toString('utf8') };
}

/** Fetch a file whole into a path of ours. @returns its media type and the name its address or head gives it */
export async function fetchFile(
  house: House,
  address: URL,
  target: string,
  most = 2e9,
): Promise<{ type: string; name: string }> {
  const { url, answer } = await ask(house, address, FILE_SECONDS);
  const type = (answer.headers['content-type'] ?? '').split(';')[0]!.trim().toLowerCase();
  await take(url, answer, most, createWriteStream(target, { flags: 'wx' }));
  let name = url.pathname.split('/').at(-1) ?? '';
  try {
    name = decodeURIComponent(name);
  } catch {
    // An address with broken escapes keeps them in the name.
  }
  return { type, name: name || 'picture' };
}
