import { execFile, spawn, type ChildProcess } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { promisify } from 'node:util';
import { ArchiveError } from '#core/errors';
import { APPLICATION } from '#server/house/application';
import type { Settings } from '#server/house/settings';
import { portIsFree } from './postgres';
import { INDEX_ENVIRONMENT, INDEX_FLAGS } from '#server/index/process';

const ROOT = APPLICATION;
/** A process that dies sooner than this after its start is in trouble; it waits before the next try. */
const HEALTHY_MS = 5000;
const READY_SECONDS = 60;
const END_MS = 8000;

function* filesBelow(path: string): Generator<string> {
  if (!existsSync(path)) return;
  if (statSync(path).isFile()) yield path;
  else for (const name of readdirSync(path).sort()) yield* filesBelow(join(path, name));
}

/** A digest of everything the build is made from. */
function sourcesDigest(): string {
  const hash = createHash('sha256');
  for (const part of [
    'src',
    'static',
    'package-lock.json',
    'svelte.config.js',
    'vite.config.ts',
    'tsconfig.json',
  ])
    for (const path of filesBelow(join(ROOT, part)))
      hash.update(path.slice(ROOT.length)).update(readFileSync(path));
  return hash.digest('hex');
}

/** Build the web application if its sources changed. @throws ArchiveError tool-failed */
export async function buildIfChanged(say: (line: string) => void): Promise<void> {
  const stamp = join(ROOT, 'build', '.sources');
  const digest = sourcesDigest();
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === digest) return;
  say('Building the web application …');
  const vite = join(ROOT, 'node_modules/vite/bin/vite.js');
  await promisify(execFile)(process.execPath, [vite, 'build', '--logLevel', 'error'], {
    cwd: ROOT,
  }).catch(({ stdout = '', stderr = '' }: { stdout?: string; stderr?: string }) => {
    throw new ArchiveError('tool-failed', `The build failed:\n${stdout}${stderr}`);
  });
  mkdirSync(dirname(stamp), { recursive: true });
  writeFileSync(stamp, digest);
}

/** @throws ArchiveError setting-refused where the port is in use */
export async function checkPort(settings: Settings): Promise<void> {
  if (!(await portIsFree(settings.port, settings.host)))
    throw new ArchiveError(
      'setting-refused',
      `Port ${settings.port} on ${settings.host} is in use; choose another with PORT.`,
    );
}

export interface Serving {
  address: string;
  /** End web server, worker and index. */
  stop: () => Promise<void>;
}

interface KeptProcess {
  stop: () => Promise<void>;
}

const WORKER_NICENESS = '15';

/** Keep a process running: when it dies, it is started again. */
function keep(name: string, command: string[], env: NodeJS.ProcessEnv): KeptProcess {
  let ended = false;
  let child: ChildProcess;
  const start = (): void => {
    // Told to end between its death and its return.
    if (ended) return;
    const began = Date.now();
    child = spawn(command[0]!, command.slice(1), {
      cwd: ROOT,
      env,
      stdio: ['ignore', 'inherit', 'inherit'],
    });
    child.on('exit', (code, signal) => {
      if (ended) return;
      console.error(`mindful: the ${name} ended (${signal ?? code}); starting it again.`);
      setTimeout(start, Date.now() - began < HEALTHY_MS ? 2000 : 100);
    });
  };
  start();
  return {
    stop: () =>
      new Promise((resolve) => {
        ended = true;
        if (child.exitCode !== null || child.signalCode !== null) return resolve();
        const hard = setTimeout(() => child.kill('SIGKILL'), END_MS);
        child.on('exit', () => {
          clearTimeout(hard);
          resolve();
        });
        child.kill('SIGTERM');
      }),
  };
}

async function isReady(address: string): Promise<boolean> {
  try {
    return (await fetch(`${address}/health`)).ok;
  } catch {
    return false;
  }
}

/** Start web server and worker and wait until they answer. @throws ArchiveError unexpected */
export async function serve(settings: Settings): Promise<Serving> {
  const shown = settings.host === '0.0.0.0' || settings.host === '::' ? '127.0.0.1' : settings.host;
  const address = `http://${shown.includes(':') ? `[${shown}]` : shown}:${settings.port}`;
  // Forwarded addresses and names are believed by TRUSTED_PROXY and ORIGIN alone.
  const { ADDRESS_HEADER, XFF_DEPTH, HOST_HEADER, PROTOCOL_HEADER, ...given } = process.env;
  const ignored = { ADDRESS_HEADER, XFF_DEPTH, HOST_HEADER, PROTOCOL_HEADER };
  for (const [name, value] of Object.entries(ignored))
    if (value) console.error(`mindful: ${name} is not heeded; see TRUSTED_PROXY and ORIGIN.`);
  const env = {
    ...given,
    NODE_ENV: 'production',
    // Seconds: windows hold a stream open for as long as they are; they come back to whoever answers next.
    SHUTDOWN_TIMEOUT: '1',
    MINDFUL_HOME: settings.home,
    HOST: settings.host,
    PORT: String(settings.port),
    // Uploads are as large as they are; everything else is held to a few megabytes in hooks.server.ts.
    BODY_SIZE_LIMIT: 'Infinity',
    MINDFUL_SUPERVISED: 'yes',
    MINDFUL_INDEX: 'yes',
    MINDFUL_LOG: process.env['MINDFUL_LOG'] ?? 'warn',
    ...(settings.origin ? { ORIGIN: settings.origin } : {}),
  };
  const node = process.execPath;
  const web = keep('web server', [node, join(ROOT, 'cli/web.mjs')], env);
  // Whoever looks at a page goes first; ExifTool and ffmpeg inherit the worker's patience.
  const patient = ['nice', '-n', WORKER_NICENESS, node];
  // The worker is this very script, run in the same way and asked for another command.
  const script = process.argv[1]!;
  const worker = keep('worker', [...patient, ...process.execArgv, script, 'worker'], env);
  const flags = [...INDEX_FLAGS, ...process.execArgv];
  const index = keep('index', [node, ...flags, script, 'index'], {
    ...env,
    ...INDEX_ENVIRONMENT,
  });
  const stop = async (): Promise<void> => {
    await Promise.all([web.stop(), worker.stop(), index.stop()]);
  };
  for (const end = Date.now() + READY_SECONDS * 1000; !(await isReady(address));) {
    if (Date.now() > end) {
      await stop();
      throw new ArchiveError(
        'unexpected',
        `The server did not answer within ${READY_SECONDS} seconds.`,
      );
    }
    await new Promise((resolve) => setTimeout(resolve, 150));
  }
  return { address, stop };
}
