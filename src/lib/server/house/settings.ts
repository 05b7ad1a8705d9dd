import { hostname } from 'node:os';
import { resolve } from 'node:path';
import proxyAddress from 'proxy-addr';
import { z } from 'zod';
import { ArchiveError, sentenceOf } from '#core/errors';

const port = z.coerce.number().int().min(1).max(65_535);
/** Ports that browsers refuse to visit (Fetch Standard, “port blocking”). */
const BLOCKED = new Set(
  `1 7 9 11 13 15 17 19 20 21 22 23 25 37 42 43 53 69 77 79 87 95 101 102 103 104 109 110 111 113 115 117 119 123 135 137
  139 143 161 179 389 427 465 512 513 514 515 526 530 531 532 540 548 554 556 563 587 601 636 989 990 993 995 1719 1720
  1723 2049 3659 4045 4190 5060 5061 6000 6566 6665 6666 6667 6668 6669 6679 6697 10080`
    .split(/\s+/)
    .map(Number),
);
const visited = port.refine((number) => !BLOCKED.has(number), 'browsers refuse to visit this port');
const folder = z
  .string()
  .min(1)
  .transform((path) => resolve(path));

/** Every setting, read from the environment; the README's table lists the same. */
const settingsSchema = z.object({
  // The default goes through the same check: a folder is absolute, wherever one stands later.
  MINDFUL_HOME: folder.prefault('./.mindful'),
  HOST: z.string().min(1).default('127.0.0.1'),
  PORT: visited.default(4180),
  ORIGIN: z.url({ protocol: /^https?$/ }).optional(),
  DATABASE_URL: z.url({ protocol: /^postgres(ql)?$/ }).optional(),
  MINDFUL_PG_PORT: port.default(4181),
  MINDFUL_ROOTS: z.string().default(['/mnt', '/media', '/srv'].join(':')),
  MINDFUL_WORKERS: z.coerce.number().int().min(1).max(64).default(2),
  /** Addresses, networks, or loopback, linklocal, uniquelocal: whose forwarded address is believed. */
  TRUSTED_PROXY: z.string().default(''),
  /** Gigabytes one person may have sent and not yet brought in. */
  MINDFUL_UPLOAD_GB: z.coerce.number().positive().max(1e6).default(500),
  /** Gigabytes of pictures, tiles, pages and proxies; what was not looked at for the longest goes. */
  MINDFUL_CACHE_GB: z.coerce.number().positive().max(1e6).default(200),
  /** Days after which what was discarded is removed for good; 0: never by itself. */
  MINDFUL_WASTE_DAYS: z.coerce.number().int().min(0).max(36_500).default(0),
  MINDFUL_STANDINS: z.string().default(''),
  /** An index runs beside and is asked first. */
  MINDFUL_INDEX: z.enum(['yes', 'no']).default('no'),
  MINDFUL_LOG: z.enum(['silent', 'error', 'warn', 'info', 'debug']).default('info'),
});

export interface Settings {
  /** Data folder; everything of ours lives below it. */
  home: string;
  host: string;
  port: number;
  /** Public address where it differs from host and port. */
  origin: string | undefined;
  /** A PostgreSQL of one's own; undefined means the private cluster. */
  databaseUrl: string | undefined;
  /** Port of the private cluster. */
  pgPort: number;
  /** Folders of the server that a keeper may bring from. */
  roots: string[];
  /** Proxies whose forwarded address is believed. */
  trustedProxies: string[];
  /** Bytes one person may have sent and not yet brought in. */
  uploadQuota: number;
  /** Bytes of the cache beyond which it is trimmed. */
  cacheLimit: number;
  /** Days after which the wastebasket lets go of something by itself; 0: never. */
  wasteDays: number;
  /** Jobs at once in one worker process. */
  workers: number;
  /** `address:port` of simulated outside services on this machine that may be asked. */
  standIns: string[];
  /** An index runs beside the web server and is asked first. */
  index: boolean;
  logLevel: string;
  hostname: string;
}

/** @throws ArchiveError setting-refused */
function checkedProxies(text: string): string[] {
  const list = text.split(/[\s,]+/).filter(Boolean);
  try {
    proxyAddress.compile(list);
    return list;
  } catch (error) {
    throw new ArchiveError(
      'setting-refused',
      `TRUSTED_PROXY is set to “${text}”, which will not do: ${sentenceOf(error)}.`,
    );
  }
}

/**
 * Check the environment.
 * @throws ArchiveError setting-refused naming the setting and what is wrong with it
 */
export function readSettings(env: NodeJS.ProcessEnv = process.env): Settings {
  const given = Object.fromEntries(
    Object.keys(settingsSchema.shape).map((key) => [key, env[key] === '' ? undefined : env[key]]),
  );
  const parsed = settingsSchema.safeParse(given);
  if (!parsed.success) {
    const issue = parsed.error.issues[0]!;
    const name = String(issue.path[0]);
    throw new ArchiveError(
      'setting-refused',
      `${name} is set to “${env[name]}”, which will not do: ${issue.message}.`,
    );
  }
  const found = parsed.data;
  return {
    home: found.MINDFUL_HOME,
    host: found.HOST,
    port: found.PORT,
    origin: found.ORIGIN,
    databaseUrl: found.DATABASE_URL,
    pgPort: found.MINDFUL_PG_PORT,
    roots: found.MINDFUL_ROOTS.split(':')
      .filter(Boolean)
      .map((path) => resolve(path)),
    trustedProxies: checkedProxies(found.TRUSTED_PROXY),
    uploadQuota: found.MINDFUL_UPLOAD_GB * 1e9,
    cacheLimit: found.MINDFUL_CACHE_GB * 1e9,
    wasteDays: found.MINDFUL_WASTE_DAYS,
    workers: found.MINDFUL_WORKERS,
    standIns: found.MINDFUL_STANDINS.split(',').filter(Boolean),
    index: found.MINDFUL_INDEX === 'yes',
    logLevel: found.MINDFUL_LOG,
    hostname: hostname(),
  };
}

/** What lies where inside the data folder. */
export function foldersOf(home: string) {
  return {
    postgres: resolve(home, 'postgres'),
    secrets: resolve(home, 'secrets.json'),
    cache: resolve(home, 'cache'),
    holdings: resolve(home, 'holdings'),
    devices: resolve(home, 'devices'),
    unplugged: resolve(home, 'unplugged'),
    incoming: resolve(home, 'incoming'),
    work: resolve(home, 'work'),
    manifests: resolve(home, 'manifests'),
    dropZone: resolve(home, 'drop-zone'),
    uploads: resolve(home, 'uploads'),
  };
}

/** Visitors come by TLS: the public address says so. Cookies are marked secure then. */
export const isBehindTls = (settings: Settings): boolean =>
  settings.origin?.startsWith('https:') ?? false;
