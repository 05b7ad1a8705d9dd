import { execFile, type ExecFileException } from 'node:child_process';
import {
  chmodSync,
  chownSync,
  existsSync,
  mkdirSync,
  readFileSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { createServer } from 'node:net';
import { totalmem } from 'node:os';
import { dirname, join } from 'node:path';
import pg from 'pg';
import { ArchiveError } from '#core/errors';
import { postgresPort, rememberPostgresPort } from '#server/house/house';
import { readSecrets } from '#server/house/secrets';
import { foldersOf, type Settings } from '#server/house/settings';

/** A private PostgreSQL cluster inside the data folder: loopback only, own port, generated password. */
const BIN = '/usr/lib/postgresql/15/bin';
const START_SECONDS = 60;
const PORTS_TO_TRY = 40;
/** A statement that heeds no cancellation keeps a fast end waiting. */
const END_SECONDS = 12;

/**
 * What PostgreSQL keeps of its tables for itself, MB: an eighth of the machine's memory. A million items are read over
 * and over; from the system's cache that costs a fifth more.
 */
const sharedMegabytes = (): number =>
  Math.min(1024, Math.max(128, Math.round(totalmem() / 8 / 1024 ** 2)));

interface Account {
  uid: number;
  gid: number;
}

function run(program: string, args: string[]): Promise<{ code: number; output: string }> {
  return new Promise((resolve) => {
    execFile(
      program,
      args,
      { encoding: 'utf8' },
      (error: ExecFileException | null, stdout, stderr) => {
        const code = error ? (typeof error.code === 'number' ? error.code : 1) : 0;
        resolve({ code, output: `${stdout}${stderr}` });
      },
    );
  });
}

/** PostgreSQL refuses to run as root: then it runs as the account Debian made for it. */
async function accountOfServer(): Promise<Account | null> {
  if (process.getuid?.() !== 0) return null;
  const id = async (flag: string): Promise<number> =>
    Number((await run('id', [flag, 'postgres'])).output);
  return { uid: await id('-u'), gid: await id('-g') };
}

function asServer(account: Account | null, program: string, args: string[]) {
  if (!account) return run(program, args);
  return run('setpriv', [
    `--reuid=${account.uid}`,
    `--regid=${account.gid}`,
    '--init-groups',
    '--reset-env',
    program,
    ...args,
  ]);
}

/** Every folder above the data folder must let the server's account pass. */
function checkPassable(home: string): void {
  for (let at = dirname(home); at !== dirname(at); at = dirname(at))
    if ((statSync(at).mode & 0o001) === 0)
      throw new ArchiveError(
        'setting-refused',
        `PostgreSQL cannot run as root, and its account may not pass “${at}”: choose another data folder with MINDFUL_HOME.`,
      );
}

export function portIsFree(port: number, host = '127.0.0.1'): Promise<boolean> {
  return new Promise((resolve) => {
    const server = createServer();
    server.once('error', () => resolve(false));
    server.listen(port, host, () => server.close(() => resolve(true)));
  });
}

export async function freePort(from: number): Promise<number> {
  for (let port = from; port < from + PORTS_TO_TRY; port += 1)
    if (await portIsFree(port)) return port;
  throw new ArchiveError(
    'database-away',
    `No free port between ${from} and ${from + PORTS_TO_TRY}.`,
  );
}

function complaint(output: string): string {
  const lines = output.trim().split('\n').filter(Boolean);
  return (
    lines.find((line) => /FATAL|No space|error/i.test(line)) ?? lines.at(-1) ?? 'no reason given'
  );
}

function failure(what: string, output: string): ArchiveError {
  if (/no space left/i.test(output))
    return new ArchiveError(
      'disk-full',
      `The disk is full: ${what} needs more room in the data folder.`,
    );
  return new ArchiveError('database-away', `${what} failed: ${complaint(output)}`);
}

async function initialise(
  settings: Settings,
  folder: string,
  account: Account | null,
): Promise<void> {
  const password = join(settings.home, '.pg-password');
  writeFileSync(password, readSecrets(settings.home).database, { mode: 0o600 });
  try {
    mkdirSync(folder, { recursive: true, mode: 0o700 });
    if (account) {
      chownSync(folder, account.uid, account.gid);
      chownSync(password, account.uid, account.gid);
    }
    chmodSync(folder, 0o700);
    const { code, output } = await asServer(account, `${BIN}/initdb`, [
      ...['-D', folder, '-U', 'mindful', '-A', 'scram-sha-256', `--pwfile=${password}`],
      ...['-E', 'UTF8', '--locale-provider=icu', '--icu-locale=und', '--locale=C.UTF-8'],
    ]);
    if (code !== 0) {
      rmSync(folder, { recursive: true, force: true });
      throw failure('making the database cluster', output);
    }
  } finally {
    rmSync(password, { force: true });
  }
}

/** A killed server whose process nobody has buried yet still looks alive to its own tools. */
function forgetDead(folder: string): void {
  const file = join(folder, 'postmaster.pid');
  if (!existsSync(file)) return;
  const [pid = ''] = readFileSync(file, 'utf8').split('\n');
  const stat = `/proc/${pid.trim()}/stat`;
  if (existsSync(stat) && /\) Z /.test(readFileSync(stat, 'utf8'))) rmSync(file, { force: true });
}

async function isRunning(folder: string, account: Account | null): Promise<boolean> {
  forgetDead(folder);
  return (await asServer(account, `${BIN}/pg_ctl`, ['-D', folder, 'status'])).code === 0;
}

async function ensureDatabase(settings: Settings): Promise<void> {
  const { database } = readSecrets(settings.home);
  const client = new pg.Client({
    host: '127.0.0.1',
    port: postgresPort(settings),
    user: 'mindful',
    password: database,
    database: 'postgres',
  });
  await client.connect();
  try {
    const { rowCount } = await client.query("select from pg_database where datname = 'mindful'");
    if (rowCount === 0) await client.query('create database mindful');
  } finally {
    await client.end();
  }
}

/** The server answers, but takes nobody in: it is starting or ending. */
const NOT_NOW = '57P03';
const SETTLE_MS = 15_000;
const LOOK_EVERY_MS = 200;

/**
 * End the server: fast, and where a statement heeds nothing, at once; its log makes up for what it had no time for
 * at the next start.
 */
async function end(folder: string, account: Account | null): Promise<void> {
  for (const mode of ['fast', 'immediate']) {
    const line = ['-D', folder, '-w', '-t', String(END_SECONDS), '-m', mode, 'stop'];
    if ((await asServer(account, `${BIN}/pg_ctl`, line)).code === 0) return;
  }
}

/** Whether a server is there to be used; one that is just ending is waited for, and ended at last. */
async function isUsable(
  settings: Settings,
  folder: string,
  account: Account | null,
): Promise<boolean> {
  for (const late = Date.now() + SETTLE_MS; await isRunning(folder, account);) {
    try {
      await ensureDatabase(settings);
      return true;
    } catch (error) {
      const { code } = error as { code?: string };
      if (code !== NOT_NOW && code !== 'ECONNREFUSED' && code !== 'ECONNRESET') throw error;
    }
    if (Date.now() > late) await end(folder, account);
    await new Promise((resolve) => setTimeout(resolve, LOOK_EVERY_MS));
  }
  return false;
}

export interface Cluster {
  /** End the server, if this call started it. */
  stop: () => Promise<void>;
}

/**
 * Have the private cluster running; make it on first use.
 * @param durable whether commits wait for the disk; only what may be lost with the machine does without
 * @throws ArchiveError database-away, disk-full, setting-refused
 */
export async function startPostgres(settings: Settings, durable = true): Promise<Cluster> {
  if (settings.databaseUrl) return { stop: async () => undefined };
  if (!existsSync(`${BIN}/pg_ctl`))
    throw new ArchiveError(
      'database-away',
      'PostgreSQL 15 is not installed: apt-get install postgresql-15.',
    );
  const folder = foldersOf(settings.home).postgres;
  const account = await accountOfServer();
  try {
    mkdirSync(settings.home, { recursive: true });
    // Closed to everyone but us; the server's account, where it is another, owns the folder to pass it.
    chmodSync(settings.home, 0o700);
    if (account) chownSync(settings.home, account.uid, account.gid);
  } catch (error) {
    throw new ArchiveError(
      'setting-refused',
      `The data folder “${settings.home}” cannot be made: ${(error as Error).message}`,
    );
  }
  if (account) checkPassable(settings.home);
  if (!existsSync(join(folder, 'PG_VERSION'))) await initialise(settings, folder, account);
  if (await isUsable(settings, folder, account)) return { stop: async () => undefined };
  const port = await freePort(settings.pgPort);
  const options = [
    `-p ${port}`,
    "-c listen_addresses=127.0.0.1 -c unix_socket_directories=''",
    `-c shared_buffers=${sharedMegabytes()}MB -c max_connections=200 -c logging_collector=off`,
    ...(durable ? [] : ['-c fsync=off']),
  ].join(' ');
  const { code, output } = await asServer(account, `${BIN}/pg_ctl`, [
    ...[
      '-D',
      folder,
      '-l',
      join(folder, 'server.log'),
      '-w',
      '-t',
      String(START_SECONDS),
      '-o',
      options,
      'start',
    ],
  ]);
  if (code !== 0) {
    const log = await asServer(account, 'tail', ['-n', '5', join(folder, 'server.log')]);
    throw failure('starting PostgreSQL', `${output}\n${log.output}`);
  }
  rememberPostgresPort(settings, port);
  await ensureDatabase(settings);
  return {
    stop: () => end(folder, account),
  };
}
