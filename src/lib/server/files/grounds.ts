import { readFileSync, realpathSync, statSync, type BigIntStats } from 'node:fs';
import { dirname, resolve } from 'node:path';
import { ArchiveError } from '#core/errors';
import {
  groundProblem,
  hasDotFolder,
  isInside,
  mountedProblem,
  parseMounts,
  SYSTEM_FOLDERS,
  type ClosedFolder,
} from '#core/holdings/grounds';
import { APPLICATION } from '../house/application';
import type { House } from '../house/house';
import { bytesOfPath, textOfPath } from './paths';

/** Rooms of the data folder that the archive itself brings from or files into. */
const OWN_ROOMS = ['holdings', 'incoming', 'devices', 'dropZone', 'uploads'] as const;

const mountsNow = (): ReturnType<typeof parseMounts> => {
  try {
    return parseMounts(readFileSync('/proc/self/mountinfo', 'utf8'));
  } catch {
    // Not Linux: paths alone decide.
    return [];
  }
};

const factsAt = (path: string): BigIntStats | null =>
  statSync(bytesOfPath(path), { bigint: true, throwIfNoEntry: false }) ?? null;

/** Names that differ in case only may lead to one folder: folders are compared by what they are, too. */
function isReachedFrom(path: string, closed: string): boolean {
  const wanted = factsAt(closed);
  if (!wanted) return false;
  for (let at = path; ; at = dirname(at)) {
    const facts = factsAt(at);
    if (facts && facts.ino === wanted.ino && facts.dev === wanted.dev) return true;
    if (at === dirname(at)) return false;
  }
}

function closedFolders(house: House): ClosedFolder[] {
  const system = SYSTEM_FOLDERS.flatMap((path) => {
    try {
      // /bin is a link into /usr on most systems.
      return realpathSync(path) === path ? [{ path, called: 'a folder of the system' }] : [];
    } catch {
      return [];
    }
  });
  return [
    { path: house.settings.home, called: 'the data folder' },
    { path: realpathSync(APPLICATION), called: 'the application' },
    ...system,
  ];
}

/** The room of ours a real path lies in, as long as that room is where it should be. */
function ownRoomOf(house: House, real: string): string | null {
  for (const name of OWN_ROOMS) {
    const room = house.folders[name];
    if (isInside(real, room) && !hasDotFolder(real.slice(room.length))) return room;
  }
  return null;
}

/**
 * The one place where it is decided which folders of the server are opened: every root, source, place, drop
 * zone and target passes here whenever it is resolved.
 * @returns the folder's real path, without links
 * @throws ArchiveError outside-place saying why it is closed; not-found where there is none
 */
export function checkGround(house: House, wished: string): string {
  let real: string;
  try {
    real = textOfPath(realpathSync.native(bytesOfPath(resolve('/', wished)), 'buffer'));
  } catch (error) {
    throw new ArchiveError('not-found', `“${wished}” is not there.`, {}, { cause: error });
  }
  const closed = closedFolders(house);
  const mounts = mountsNow();
  const room = ownRoomOf(house, real);
  const problem = room
    ? mountedProblem(real, room, closed, mounts)
    : (groundProblem(real, closed, mounts) ??
      closed
        .filter(({ path }) => isReachedFrom(real, path))
        .map(({ called }) => `lies in ${called}`)[0]);
  if (problem)
    throw new ArchiveError(
      'outside-place',
      `“${wished}” ${problem}: nothing is brought from or filed there.`,
    );
  return real;
}

/** Whether a folder is open ground; false also where it is not there. */
export function isOpenGround(house: House, path: string): boolean {
  try {
    checkGround(house, path);
    return true;
  } catch {
    return false;
  }
}

/** Whether a folder is open ground and really lies where its path says. */
export function isAtItsPath(house: House, path: string): boolean {
  return isOpenGround(house, path) && checkGround(house, path) === path;
}

/** Roots of the settings that cannot be used, each with the reason; for the one who starts the archive. */
export function refusedRoots(house: House): string[] {
  return house.settings.roots.flatMap((root) => {
    try {
      checkGround(house, root);
      return [];
    } catch (error) {
      const isMissing = error instanceof ArchiveError && error.code === 'not-found';
      return isMissing ? [] : [(error as Error).message];
    }
  });
}
