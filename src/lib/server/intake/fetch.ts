import { lookup as resolveName } from 'node:dns/promises';
import { createWriteStream } from 'node:fs';
import { request as httpRequest, type IncomingMessage } from 'node:http';
import { request as httpsRequest } from 'node:https';
import { BlockList, isIP } from 'node:net';
import { pipeline } from 'node:stream/promises';
import { Transform } from 'node:stream';
import { ArchiveError, sentenceOf } from '#core/errors';
import type { House } from '../house/house';

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
  ['::', 128],
  ['::1', 128],
  ['64:ff9b::', 96],
  ['64:ff9b:1::', 48],
  ['100::', 64],
  ['2001::', 23],
  ['2001:db8::', 32],
  ['2002::', 16],
  ['fc00::', 7],
  ['fe80::', 10],
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

const SECONDS = 60;
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

/** Ask for an address; redirects are followed within its own site only. */
async function ask(
  house: House,
  url: URL,
  left = MOST_REDIRECTS,
): Promise<{ url: URL; answer: IncomingMessage }> {
  const target = await checkedAddress(house, url);
  const answer = await new Promise<IncomingMessage>((resolve, reject) => {
    const request = (url.protocol === 'https:' ? httpsRequest : httpRequest)(
      url,
      {
        method: 'GET',
        headers: { 'user-agent': 'MindfulArchive', accept: 'text/html,image/*,*/*;q=0.5' },
        signal: AbortSignal.timeout(SECONDS * 1000),
        lookup: (_host, options, done) => {
          if (options.all) done(null, [target]);
          else done(null, target.address, target.family);
        },
      },
      resolve,
    );
    request.on('error', (error) =>
      reject(refused(`“${url.host}” does not answer: ${sentenceOf(error)}`, error)),
    );
    request.end();
  });
  const status = answer.statusCode ?? 0;
  if (status >= 300 && status < 400 && answer.headers.location) {
    answer.destroy();
    const next = new URL(answer.headers.location, url);
    if (next.host !== url.host)
      throw refused(`“${url.host}” sends on to “${next.host}”; open that address itself.`);
    if (left === 0) throw refused(`“${url.host}” sends on without end.`);
    return ask(house, next, left - 1);
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

/** The text of a page, or the type of what else lies there. */
export async function fetchPage(
  house: House,
  address: URL,
): Promise<{ url: URL; type: string; text: string }> {
  const { url, answer } = await ask(house, address);
  const type = (answer.headers['content-type'] ?? '').split(';')[0]!.trim().toLowerCase();
  if (type !== 'text/html' && type !== 'application/xhtml+xml') {
    answer.destroy();
    return { url, type, text: '' };
  }
  const parts: Buffer[] = [];
  for await (const part of answer.pipe(limit(10e6))) parts.push(part as Buffer);
  return { url, type, text: Buffer.concat(parts).toString('utf8') };
}

/** Fetch a file whole into a path of ours. @returns its media type and the name its address or head gives it */
export async function fetchFile(
  house: House,
  address: URL,
  target: string,
  most = 2e9,
): Promise<{ type: string; name: string }> {
  const { url, answer } = await ask(house, address);
  const type = (answer.headers['content-type'] ?? '').split(';')[0]!.trim().toLowerCase();
  try {
    await pipeline(answer, limit(most), createWriteStream(target, { flags: 'wx' }));
  } catch (error) {
    if (error instanceof ArchiveError) throw error;
    throw refused(`“${url.href}” broke off: ${sentenceOf(error)}`, error);
  }
  let name = url.pathname.split('/').at(-1) ?? '';
  try {
    name = decodeURIComponent(name);
  } catch {
    // An address with broken escapes keeps them in the name.
  }
  return { type, name: name || 'picture' };
}
