import { constants } from 'node:fs';
import { mkdir, open, readlink, symlink, unlink, type FileHandle } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ArchiveError } from '#core/errors';
import { extensionOf } from '#core/kinds/kinds';
import { newId } from '../house/ids';
import { bytesOfPath, splitPath } from './paths';

/** Not through a link at the end, and without waiting for the other end of a pipe. */
const FLAGS = constants.O_RDONLY | constants.O_NOFOLLOW | constants.O_NONBLOCK;

const handlePath = (handle: FileHandle): string => `/proc/self/fd/${handle.fd}`;

/**
 * Open a file of the holdings or of a source for reading, exactly under its path: no link is followed, neither
 * at its end nor on the way. Who opens holds the file itself; nobody can put another in its place afterwards.
 * @param path absolute path text below a root that was resolved ({@link checkGround})
 * @throws ArchiveError outside-place where a link is on the way, file-unreadable where it is no ordinary file;
 * the system's own error where it cannot be opened
 */
export async function openPlain(path: string): Promise<FileHandle> {
  const bytes = bytesOfPath(path);
  const name = splitPath(path).name;
  let handle: FileHandle;
  try {
    handle = await open(bytes, FLAGS);
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== 'ELOOP') throw error;
    throw new ArchiveError('outside-place', `“${name}” is a link; links are not followed.`);
  }
  try {
    if (!(await handle.stat()).isFile())
      throw new ArchiveError('file-unreadable', `“${name}” is no ordinary file.`);
    // Linux tells where an open file really lies.
    const real = await readlink(handlePath(handle), { encoding: 'buffer' }).catch(() => bytes);
    if (!real.equals(bytes))
      throw new ArchiveError('outside-place', `“${name}” is reached by a link or moved just now.`);
    return handle;
  } catch (error) {
    await handle.close();
    throw error;
  }
}

/** Run with a file that is held open, see {@link openPlain}. */
export async function withOpened<T>(
  path: string,
  run: (handle: FileHandle) => Promise<T>,
): Promise<T> {
  const handle = await openPlain(path);
  try {
    return await run(handle);
  } finally {
    await handle.close();
  }
}

/** A path by which libraries in this process read the file that is held open. */
export const pathOfHandle = handlePath;

const ALIASES = join(tmpdir(), `mindful-names-${process.getuid?.() ?? 0}`);

/**
 * Run an outside tool on a file: it gets a plain name of ours with the file's extension, which leads to the
 * open file. So odd names never reach a tool, and no link is followed.
 */
export const withToolPath = <T>(path: string, run: (plain: string) => Promise<T>): Promise<T> =>
  withOpened(path, async (handle) => {
    await mkdir(ALIASES, { recursive: true, mode: 0o700 });
    const extension = extensionOf(splitPath(path).name).replace(/[^a-z0-9]/g, '');
    const alias = join(ALIASES, extension ? `${newId()}.${extension}` : newId());
    await symlink(`/proc/${process.pid}/fd/${handle.fd}`, alias);
    try {
      return await run(alias);
    } catch (error) {
      // What a tool complains speaks of the file, not of our name for it.
      if (error instanceof Error)
        error.message = error.message
          .replaceAll(alias, splitPath(path).name)
          .replaceAll(splitPath(alias).name, splitPath(path).name);
      throw error;
    } finally {
      await unlink(alias).catch(() => undefined);
    }
  });
