import { spawn } from 'node:child_process';
import { chmodSync, mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';

const ROOT = resolve(import.meta.dirname, '../..');
/** Below those that systems lend to connections that go out (32768 and above). */
const PORT = 22181;
const READY_MS = 900_000;

/** The real application with a small demo library, started by its front door and ended by Ctrl-C. */
export default async function setup(): Promise<() => Promise<void>> {
  // Against an archive that runs already, while one works on a test.
  if (process.env['MINDFUL_TEST_ADDRESS']) return async () => undefined;
  const home = mkdtempSync(join(tmpdir(), 'mindful-running-'));
  chmodSync(home, 0o755);
  const incoming = join(home, 'incoming');
  mkdirSync(incoming);
  const child = spawn(join(ROOT, 'mindful'), ['demo'], {
    cwd: ROOT,
    env: {
      ...process.env,
      MINDFUL_HOME: home,
      MINDFUL_DEMO: 'small',
      PORT: String(PORT),
      MINDFUL_PG_PORT: '22190',
      MINDFUL_LOG: 'warn',
    },
    stdio: ['ignore', 'pipe', 'inherit'],
    detached: true,
  });
  await new Promise<void>((ready, fail) => {
    const late = setTimeout(() => fail(new Error('the demo was not ready in time')), READY_MS);
    child.stdout.on('data', (data: Buffer) => {
      if (!data.toString().includes('The library is complete')) return;
      clearTimeout(late);
      ready();
    });
    child.on('exit', (code) => fail(new Error(`the demo ended with ${code}`)));
  });
  process.env['MINDFUL_TEST_ADDRESS'] = `http://127.0.0.1:${PORT}`;
  process.env['MINDFUL_TEST_HOME'] = home;
  return async () => {
    child.removeAllListeners('exit');
    const ended = new Promise((done) => child.once('exit', done));
    process.kill(-child.pid!, 'SIGINT');
    await ended;
    rmSync(home, { recursive: true, force: true });
  };
}
