import { spawn, type ChildProcess } from 'node:child_process';
import { chmodSync, mkdirSync, mkdtempSync, renameSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { freePort } from '../../cli/postgres';
import { calm } from './calm';

const ROOT = resolve(import.meta.dirname, '../..');
/** From here on a free port is looked for, below those that systems lend to connections that go out (32768 and above). */
const PORT = 22181;
const PG_PORT = '22190';
const READY_MS = 900_000;

/** Start the application by its front door, and wait until it does nothing by itself. @param says what it says once it is ready */
export async function startApplication(
  home: string,
  address: string,
  says = address,
): Promise<ChildProcess> {
  const since = new Date();
  const child = spawn(join(ROOT, 'mindful'), ['demo'], {
    cwd: ROOT,
    env: {
      ...process.env,
      MINDFUL_HOME: home,
      MINDFUL_DEMO: 'small',
      PORT: new URL(address).port,
      MINDFUL_PG_PORT: PG_PORT,
      MINDFUL_LOG: 'warn',
    },
    stdio: ['ignore', 'pipe', 'inherit'],
    detached: true,
  });
  await new Promise<void>((ready, fail) => {
    const late = setTimeout(() => fail(new Error('the demo was not ready in time')), READY_MS);
    child.stdout!.on('data', (data: Buffer) => {
      if (!data.toString().includes(says)) return;
      clearTimeout(late);
      ready();
    });
    child.on('exit', (code) => fail(new Error(`the demo ended with ${code}`)));
  });
  try {
    await calm(home, PG_PORT, since);
  } catch (error) {
    await endApplication(child);
    throw error;
  }
  return child;
}

/** End it as Ctrl-C does. */
export async function endApplication(child: ChildProcess): Promise<void> {
  child.removeAllListeners('exit');
  const ended = new Promise((done) => child.once('exit', done));
  process.kill(-child.pid!, 'SIGINT');
  await ended;
}

/** Where the library that is made once is kept: every file of tests gets a copy of its own, in the same place. */
const madeOnce = (home: string): string => `${home}-made`;

/** The real application with a small demo library, made once. */
export default async function setup(): Promise<() => void> {
  // Against an archive that runs already, while one works on a test.
  if (process.env['MINDFUL_TEST_ADDRESS']) return () => undefined;
  const home = mkdtempSync(join(tmpdir(), 'mindful-running-'));
  chmodSync(home, 0o755);
  mkdirSync(join(home, 'incoming'));
  const address = `http://127.0.0.1:${await freePort(PORT)}`;
  await endApplication(await startApplication(home, address, 'The library is complete'));
  renameSync(home, madeOnce(home));
  process.env['MINDFUL_TEST_HOME'] = home;
  process.env['MINDFUL_TEST_ADDRESS'] = address;
  process.env['MINDFUL_TEST_MADE'] = madeOnce(home);
  return () => {
    for (const folder of [home, madeOnce(home)]) rmSync(folder, { recursive: true, force: true });
  };
}
