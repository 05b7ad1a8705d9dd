import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import workerpool, { type Pool } from 'workerpool';
import { ArchiveError, type ErrorCode } from '#core/errors';
import { plainReason } from '#core/kinds/reasons';
import { withoutPaths } from '#core/text/paths';
import { APPLICATION } from '../house/application';

/**
 * What others made is parsed apart: in a process of its own, with limits of time and memory. A file that makes a
 * library run or grow without end takes down that process, and is told of; pages and jobs go on.
 */
const MOST_AT_ONCE = 2;
const MOST_WAITING = 60;
/** MB of JavaScript's own heap. */
const HEAP_MB = 768;
/** Bytes of private memory with buffers and native libraries (setrlimit(2), RLIMIT_DATA). */
const DATA_BYTES = 1536 << 20;
const PRLIMIT = '/usr/bin/prlimit';
/** A process nobody needs gives its memory back after this long. */
const IDLE_MS = 15_000;
/** Between asking a process to end and killing it. */
const GRACE_MS = 200;

/** A function that is run apart: where it lies below `server/`, its name, and by its type what it takes and gives. */
export interface Apart<Run extends ApartRun> {
  module: string;
  name: string;
  /** Never there; carries the type. */
  run?: Run;
}
// eslint-disable-next-line @typescript-eslint/no-explicit-any -- each task says what it takes
export type ApartRun = (input: any) => Promise<unknown>;

/** Name a function to be run apart without loading it here. Plain data only pass between processes. */
export const apart = <Run extends ApartRun>(module: string, name: string): Apart<Run> => ({
  module,
  name,
});

let pool: Pool | null = null;
let idle: NodeJS.Timeout | null = null;

function openPool(): Pool {
  const loader = pathToFileURL(join(APPLICATION, 'node_modules/tsx/dist/loader.mjs')).href;
  const node = [`--max-old-space-size=${HEAP_MB}`, '--import', loader];
  const limited = existsSync(PRLIMIT);
  return workerpool.pool(join(APPLICATION, 'src/lib/server/apart/process.ts'), {
    workerType: 'process',
    maxWorkers: MOST_AT_ONCE,
    maxQueueSize: MOST_WAITING,
    workerTerminateTimeout: GRACE_MS,
    forkOpts: {
      cwd: APPLICATION,
      // Nothing of ours that is secret reaches it.
      env: { PATH: process.env['PATH'] ?? '', TZ: process.env['TZ'] ?? '' },
      execPath: limited ? PRLIMIT : process.execPath,
      execArgv: limited ? [`--data=${DATA_BYTES}`, '--', process.execPath, ...node] : node,
      serialization: 'advanced',
    },
  });
}

/** End the processes, if any run. */
export async function endApart(): Promise<void> {
  if (idle) clearTimeout(idle);
  const ending = pool;
  pool = null;
  await ending?.terminate(true);
}

function restSoon(): void {
  if (idle) clearTimeout(idle);
  idle = setTimeout(() => {
    if (pool?.stats().activeTasks === 0) void endApart().catch(() => undefined);
    else restSoon();
  }, IDLE_MS);
  idle.unref();
}

function explained(error: unknown, seconds: number): ArchiveError {
  if (error instanceof workerpool.Promise.TimeoutError)
    return new ArchiveError(
      'file-unreadable',
      `It takes longer than ${seconds} seconds to read; it was given up.`,
    );
  const { name, message, code, data } = error as ArchiveError & { code: ErrorCode };
  if (name === 'ArchiveError') return new ArchiveError(code, message, data);
  if (/queue size/i.test(message))
    return new ArchiveError('too-many-tries', 'Too much waits to be read; try again in a moment.');
  if (/terminated|exit/i.test(message))
    return new ArchiveError(
      'file-unreadable',
      'It asks for more memory than one file is given; it was given up.',
    );
  return new ArchiveError('file-unreadable', plainReason(message), {
    detail: withoutPaths(message).slice(0, 500),
  });
}

/**
 * Run a task apart.
 * @param seconds after which its process is killed
 * @throws ArchiveError what the task throws; file-unreadable where it ran out of time or memory
 */
export async function runApart<Run extends ApartRun>(
  { module, name }: Apart<Run>,
  input: Parameters<Run>[0],
  seconds: number,
): Promise<Awaited<ReturnType<Run>>> {
  pool ??= openPool();
  restSoon();
  try {
    const answer = await pool.exec('run', [module, name, input]).timeout(seconds * 1000);
    return answer as Awaited<ReturnType<Run>>;
  } catch (error) {
    throw explained(error, seconds);
  }
}
