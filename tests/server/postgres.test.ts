import { execFileSync } from 'node:child_process';
import {
  chmodSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  rmSync,
  statSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pg from 'pg';
import { afterAll, describe, expect, it } from 'vitest';
import { databaseUrlOf, postgresPort } from '#server/house/house';
import { readSecrets } from '#server/house/secrets';
import { readSettings, foldersOf, type Settings } from '#server/house/settings';
import { portIsFree, startPostgres, type Cluster } from '../../cli/postgres';

/** The private cluster as the front door makes and finds it, in data folders of its own. */
const homes: string[] = [];
const started: Cluster[] = [];
/** Below those that systems lend to connections that go out (32768 and above). */
const PORT = '22300';

function settingsOf(over: Record<string, string> = {}): Settings {
  const home = mkdtempSync(join(tmpdir(), 'mindful-cluster-'));
  chmodSync(home, 0o755);
  homes.push(home);
  return readSettings({ MINDFUL_HOME: home, MINDFUL_PG_PORT: PORT, ...over });
}
async function start(settings: Settings): Promise<Cluster> {
  const cluster = await startPostgres(settings);
  started.push(cluster);
  return cluster;
}
async function ask<T extends object>(url: string, question: string): Promise<T[]> {
  const client = new pg.Client({ connectionString: url });
  await client.connect();
  try {
    return (await client.query<T>(question)).rows;
  } finally {
    await client.end();
  }
}
afterAll(async () => {
  for (const cluster of started) await cluster.stop();
  for (const home of homes) rmSync(home, { recursive: true, force: true });
});

describe('the private PostgreSQL', () => {
  const settings = settingsOf();
  const root = process.getuid?.() === 0;

  it('is made on first use: loopback, a password, Unicode, not run by root', async () => {
    await start(settings);
    const url = databaseUrlOf(settings);
    expect(new URL(url).hostname).toBe('127.0.0.1');
    const [found] = await ask<{ encoding: string; listens: string; method: string }>(
      url,
      `select pg_encoding_to_char(encoding) as encoding, current_setting('listen_addresses') as listens,
        current_setting('password_encryption') as method from pg_database where datname = current_database()`,
    );
    expect(found).toEqual({ encoding: 'UTF8', listens: '127.0.0.1', method: 'scram-sha-256' });
    const wrong = new URL(url);
    wrong.password = 'guessed';
    await expect(ask(wrong.href, 'select 1')).rejects.toMatchObject({ code: '28P01' });
    const folder = foldersOf(settings.home).postgres;
    expect(statSync(folder).mode & 0o777).toBe(0o700);
    if (root) expect(statSync(folder).uid).not.toBe(0);
    expect(existsSync(join(settings.home, '.pg-password'))).toBe(false);
    const rules = readFileSync(join(folder, 'pg_hba.conf'), 'utf8');
    expect(rules.split('\n').filter((line) => /^\w/.test(line) && /trust/.test(line))).toEqual([]);
  });

  it('is found running by the next command, which does not end it', async () => {
    const again = await startPostgres(settings);
    await again.stop();
    expect(await ask(databaseUrlOf(settings), 'select 1 as one')).toEqual([{ one: 1 }]);
  });

  it('takes the next free port beside another, and remembers it', async () => {
    const other = settingsOf();
    await start(other);
    expect(postgresPort(settings)).toBeGreaterThanOrEqual(Number(PORT));
    expect(postgresPort(other)).toBeGreaterThan(postgresPort(settings));
    expect(readSecrets(other.home).database).not.toBe(readSecrets(settings.home).database);
    expect(await ask(databaseUrlOf(other), 'select 1 as one')).toEqual([{ one: 1 }]);
  });

  it('comes back with its data after it was killed without a word', async () => {
    const url = databaseUrlOf(settings);
    await ask(url, 'create table kept (word text)');
    await ask(url, "insert into kept values ('still here')");
    const [pid] = readFileSync(
      join(foldersOf(settings.home).postgres, 'postmaster.pid'),
      'utf8',
    ).split('\n');
    process.kill(Number(pid), 'SIGKILL');
    // Its children notice within moments; only then is the folder free.
    const port = postgresPort(settings);
    for (let look = 0; look < 100 && !(await portIsFree(port)); look += 1)
      await new Promise((resolve) => setTimeout(resolve, 100));
    await start(settings);
    expect(await ask(databaseUrlOf(settings), 'select word from kept')).toEqual([
      { word: 'still here' },
    ]);
  });

  it('ends when the one who started it says so', async () => {
    const alone = settingsOf();
    const cluster = await startPostgres(alone);
    const port = postgresPort(alone);
    await cluster.stop();
    expect(await portIsFree(port)).toBe(true);
    await expect(ask(databaseUrlOf(alone), 'select 1')).rejects.toMatchObject({
      code: 'ECONNREFUSED',
    });
  });

  /** A connection whose process heeds nothing, like a planner that is lost. */
  async function deafBackend(url: string): Promise<pg.Client> {
    const client = new pg.Client({ connectionString: url });
    client.on('error', () => undefined);
    await client.connect();
    const { rows } = await client.query<{ pid: number }>('select pg_backend_pid() as pid');
    process.kill(rows[0]!.pid, 'SIGSTOP');
    return client;
  }

  it('ends even where a statement heeds nothing', async () => {
    const alone = settingsOf();
    const cluster = await startPostgres(alone);
    const port = postgresPort(alone);
    const client = await deafBackend(databaseUrlOf(alone));
    await cluster.stop();
    expect(await portIsFree(port)).toBe(true);
    await client.end().catch(() => undefined);
  });

  it('starts over one that is still ending', async () => {
    const alone = settingsOf();
    const first = await startPostgres(alone);
    const url = databaseUrlOf(alone);
    const asked = new pg.Client({ connectionString: url });
    await asked.connect();
    await asked.query('create table kept (word text)');
    await asked.end();
    const client = await deafBackend(url);
    const ending = first.stop();
    await new Promise((resolve) => setTimeout(resolve, 1000));
    const second = await start(alone);
    await ending;
    expect(await ask(databaseUrlOf(alone), 'select count(*)::int as n from kept')).toEqual([
      { n: 0 },
    ]);
    await second.stop();
    await client.end().catch(() => undefined);
  });

  it.runIf(root)('lies in a folder closed to everyone else', () => {
    expect(statSync(settings.home).mode & 0o777).toBe(0o700);
  });

  it('is left alone where one has a PostgreSQL of one’s own', async () => {
    const own = settingsOf({ DATABASE_URL: databaseUrlOf(settings) });
    await (await startPostgres(own)).stop();
    expect(existsSync(foldersOf(own.home).postgres)).toBe(false);
    expect(await ask(databaseUrlOf(own), 'select 1 as one')).toEqual([{ one: 1 }]);
  });

  it.runIf(root)('says which folder its account may not pass', async () => {
    const closed = mkdtempSync(join(tmpdir(), 'mindful-closed-'));
    homes.push(closed);
    chmodSync(closed, 0o700);
    mkdirSync(join(closed, 'home'));
    const shut = readSettings({ MINDFUL_HOME: join(closed, 'home'), MINDFUL_PG_PORT: PORT });
    await expect(startPostgres(shut)).rejects.toMatchObject({
      code: 'setting-refused',
      message: expect.stringContaining(closed) as string,
    });
  });

  it.runIf(root)('says in one sentence when the disk is full', async () => {
    const small = mkdtempSync(join(tmpdir(), 'mindful-small-'));
    homes.push(small);
    execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=8m,mode=755', 'tmpfs', small]);
    try {
      const full = readSettings({ MINDFUL_HOME: small, MINDFUL_PG_PORT: PORT });
      await expect(startPostgres(full)).rejects.toMatchObject({ code: 'disk-full' });
      expect(existsSync(join(foldersOf(small).postgres, 'PG_VERSION'))).toBe(false);
    } finally {
      execFileSync('umount', [small]);
    }
  });
});
