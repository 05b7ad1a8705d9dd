import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import workerpool, { type Pool } from 'workerpool';
import { ArchiveError, type ErrorCode } from '#core/errors';
import { plainReason, withoutMarkup } from '#core/kinds/reasons';
import { withoutPaths } from '#core/text/paths';
import { APPLICATION } from '../house/application';
import { acrossPauses } from '../house/pauses';

/**
 * What others made is parsed apart: in a process of its own, with limits of time and memory. A file that makes a
 * library run or grow without end takes down that process, and is told of; pages and jobs go on.
 */
const MOST_WAITING = 60;
const PRLIMIT = '/usr/bin/prlimit';
/** A process nobody needs gives its memory back after this long. */
const IDLE_MS = 15_000;
/** Between asking a process to end and killing it. */
const GRACE_MS = 200;

/** Rooms of processes: what is read never waits for pictures that are made. */
const ROOMS = {
  reading: { atOnce: 2, heapMb: 768, dataBytes: 1536 << 20, idleMs: IDLE_MS },
  /** What people type is read while they wait: it is begun once and stays for a while. */
  asking: { atOnce: 1, heapMb: 192, dataBytes: 1 << 30, idleMs: 10 * 60_000 },
  /** A decoder may hold a large progressive picture whole. */
  pictures: { atOnce: 2, heapMb: 512, dataBytes: 3 * 2 ** 30, idleMs: IDLE_MS },
};
type RoomName = keyof typeof ROOMS;

/** A function that is run apart: where it lies below `server/`, its name, and by its type what it takes and gives. */
export interface Apart<Run extends ApartRun> {
  module: string;
  name: string;
  room: RoomName;
  /** Never there; carries the type. */
  run?: Run;
}
// eslint-disable-next-line @typescript-eslint/no-explicit-any -- each task says what it takes
export type ApartRun = (input: any) => Promise<unknown>;

/** Name a function to be run apart without loading it here. Plain data only pass between processes. */
export const apart = <Run extends ApartRun>(
  module: string,
  name: string,
  room: RoomName = 'reading',
): Apart<Run> => ({ module, name, room });

interface OpenRoom {
  pool: Pool;
  idle: NodeJS.Timeout | null;
}
const open = new Map<RoomName, OpenRoom>();

function openPool(room: RoomName): Pool {
  const { atOnce, heapMb, dataBytes } = ROOMS[room];
  const loader = pathToFileURL(join(APPLICATION, 'node_modules/tsx/dist/loader.mjs')).href;
  const node = [`--max-old-space-size=${heapMb}`, '--import', loader];
  const limited = existsSync(PRLIMIT);
  return workerpool.pool(join(APPLICATION, 'src/lib/server/apart/process.ts'), {
    workerType: 'process',
    maxWorkers: atOnce,
    maxQueueSize: MOST_WAITING,
    workerTerminateTimeout: GRACE_MS,
    forkOpts: {
      cwd: APPLICATION,
      // Nothing of ours that is secret reaches it.
      env: { PATH: process.env['PATH'] ?? '', TZ: process.env['TZ'] ?? '' },
      execPath: limited ? PRLIMIT : process.execPath,
      execArgv: limited ? [`--data=${dataBytes}`, '--', process.execPath, ...node] : node,
      serialization: 'advanced',
    },
  });
}

async function endRoom(name: RoomName): Promise<void> {
  const ending = open.get(name);
  open.delete(name);
  if (ending?.idle) clearTimeout(ending.idle);
  await ending?.pool.terminate(true);
}

/** End the processes, if any run. */
export async function endApart(): Promise<void> {
  await Promise.all([...open.keys()].map(endRoom));
}

function restSoon(name: RoomName, room: OpenRoom): void {
  if (room.idle) clearTimeout(room.idle);
  room.idle = setTimeout(() => {
    if (room.pool.stats().activeTasks === 0) void endRoom(name).catch(() => undefined);
    else restSoon(name, room);
  }, ROOMS[name].idleMs);
  room.idle.unref();
}

const isTimeout = (error: unknown): boolean => error instanceof workerpool.Promise.TimeoutError;

function explained(error: unknown, seconds: number): ArchiveError {
  if (isTimeout(error))
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
      'It breaks what reads it, or asks for more memory than one file is given; it was given up.',
      { broke: true },
    );
  return new ArchiveError('file-unreadable', plainReason(message), {
    detail: withoutMarkup(withoutPaths(message)).slice(0, 500),
  });
}

/**
 * Run a task apart.
 * @param seconds after which its process is killed
 * @throws ArchiveError what the task throws; file-unreadable where it ran out of time or memory
 */
export async function runApart<Run extends ApartRun>(
  { module, name, room: roomName }: Apart<Run>,
  input: Parameters<Run>[0],
  seconds: number,
): Promise<Awaited<ReturnType<Run>>> {
  const room = open.get(roomName) ?? { pool: openPool(roomName), idle: null };
  open.set(roomName, room);
  restSoon(roomName, room);
  try {
    return await acrossPauses(
      async () =>
        (await room.pool.exec('run', [module, name, input]).timeout(seconds * 1000)) as Awaited<
          ReturnType<Run>
        >,
      isTimeout,
    );
  } catch (error) {
    throw explained(error, seconds);
  }
}
