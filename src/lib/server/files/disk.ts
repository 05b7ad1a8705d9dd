import { constants, type BigIntStats, type Dirent } from 'node:fs';
import {
  link,
  lstat,
  mkdir,
  open,
  readdir,
  rename,
  rmdir,
  stat,
  statfs,
  unlink,
} from 'node:fs/promises';
import pMap from 'p-map';
import { ArchiveError } from '#core/errors';
import type { LeftOut } from '#core/intake/leftOut';
import { isClutter } from '#core/kinds/kinds';
import { eachPiece, endHash, hashHandle, startHash, type ContentHash } from './hash';
import { openPlain, withOpened } from './open';
import { bytesOfPath, joinPath, realInside, splitPath, textOfPath } from './paths';

/** As `w+`, but never through a link that somebody laid under the name. */
const WRITE_ANEW = constants.O_RDWR | constants.O_CREAT | constants.O_TRUNC | constants.O_NOFOLLOW;

/** Our temporary files: never listed, never brought in, removed when their work is settled. */
export const temporaryName = (id: string): string => `.mindful-${id}.part`;
export const isTemporary = (name: string): boolean => /^\.mindful-.*\.(part|xmp)$/.test(name);

const isCode = (error: unknown, ...codes: string[]): boolean =>
  codes.includes((error as NodeJS.ErrnoException)?.code ?? '');

/** No room is left: nothing else will succeed either. */
export const isDiskFull = (error: unknown): boolean =>
  isCode(error, 'ENOSPC', 'EDQUOT') ||
  (error instanceof ArchiveError && error.code === 'disk-full');

/** Words for what the operating system refused. */
export function diskError(error: unknown, path: string): ArchiveError {
  if (error instanceof ArchiveError) return error;
  const cause = { cause: error };
  if (isCode(error, 'ENOSPC', 'EDQUOT'))
    return new ArchiveError(
      'disk-full',
      `The disk is full: no room for “${path}”.`,
      { path },
      cause,
    );
  if (isCode(error, 'ENOENT', 'ENOTDIR'))
    return new ArchiveError('not-found', `“${path}” is not there.`, { path }, cause);
  if (isCode(error, 'EACCES', 'EPERM', 'EROFS'))
    return new ArchiveError(
      'file-unreadable',
      `The system refuses access to “${path}”.`,
      { path },
      cause,
    );
  if (isCode(error, 'EIO'))
    return new ArchiveError(
      'file-unreadable',
      `“${path}” cannot be read: the disk reports an error.`,
      { path },
      cause,
    );
  if (isCode(error, 'ENAMETOOLONG'))
    return new ArchiveError(
      'name-refused',
      `“${path}” is too long for this disk.`,
      { path },
      cause,
    );
  return new ArchiveError('unexpected', `“${path}”: ${(error as Error).message}`, { path }, cause);
}

/** Facts of a file without following links; null where it is not there, or cannot be under such a name. */
export async function factsOf(path: string): Promise<BigIntStats | null> {
  try {
    return await lstat(bytesOfPath(path), { bigint: true });
  } catch (error) {
    if (isCode(error, 'ENOENT', 'ENOTDIR', 'ENAMETOOLONG')) return null;
    throw diskError(error, path);
  }
}

export interface FoundFile {
  /** Path below the folder that was walked. */
  path: string;
  size: number;
  modifiedNs: bigint;
  inode: bigint;
  /** When the file came to be as and where it is (ctime): also a rename sets it. */
  changedNs: bigint;
}

/** Each waits for a thread of its own for a moment; more at once than there are threads keep all of them busy. */
const STATS_AT_ONCE = 32;

/**
 * All files below a folder, sorted by path; links, hidden folders and clutter are left out.
 * @throws ArchiveError where the folder itself cannot be read; of those below, see {@link walkAll}
 */
export const walk = async (root: string): Promise<FoundFile[]> => (await walkAll(root)).files;

/** What lies below a folder. */
export interface Walked {
  files: FoundFile[];
  /** With its reason, but for what systems and we ourselves leave behind. */
  leftOut: LeftOut[];
  /** Folders that could not be read: nobody knows what lies in them. */
  unread: string[];
}

/**
 * As {@link walk}; what is left out is told with its reason. One folder that cannot be read does not keep the others
 * from being looked at.
 * @param tell hears at each folder how many files were found so far
 */
export async function walkAll(
  root: string,
  tell: (count: number) => Promise<void> = () => Promise.resolve(),
): Promise<Walked> {
  const found: FoundFile[] = [];
  const leftOut: LeftOut[] = [];
  const unread: string[] = [];
  /** What lies in a folder; nothing where it vanished, or cannot be read. */
  const entriesOf = async (folder: string): Promise<Dirent[]> => {
    try {
      const at = bytesOfPath(joinPath(root, folder) || '/');
      // Names are bytes; the types of Node.js know no such entries.
      return await readdir(at, { withFileTypes: true, encoding: 'buffer' as 'utf8' });
    } catch (error) {
      if (folder === '') throw error;
      if (isCode(error, 'ENOENT', 'ENOTDIR')) return [];
      unread.push(folder);
      leftOut.push({ path: folder, why: diskError(error, folder).message });
      return [];
    }
  };
  const visit = async (folder: string): Promise<void> => {
    const entries = await entriesOf(folder);
    await tell(found.length);
    const below: string[] = [];
    const files: string[] = [];
    for (const entry of entries) {
      const name = textOfPath(entry.name as unknown as Buffer);
      if (isClutter(name)) continue;
      const path = joinPath(folder, name);
      if (entry.isFile()) files.push(path);
      else if (!entry.isDirectory())
        leftOut.push({
          path,
          why: entry.isSymbolicLink() ? 'a link; links are not followed' : 'no ordinary file',
        });
      // Hidden folders hold what programs keep for themselves.
      else if (name.startsWith('.'))
        leftOut.push({ path, why: 'a hidden folder; what programs keep there is not looked into' });
      else below.push(path);
    }
    const seen = await pMap(files, (path) => factsOf(joinPath(root, path)), {
      concurrency: STATS_AT_ONCE,
    });
    for (const [at, facts] of seen.entries())
      if (facts)
        found.push({
          path: files[at]!,
          size: Number(facts.size),
          modifiedNs: facts.mtimeNs,
          inode: facts.ino,
          changedNs: facts.ctimeNs,
        });
    for (const path of below) await visit(path);
  };
  try {
    const top = bytesOfPath(root || '/');
    const before = await stat(top, { bigint: true });
    await visit('');
    const after = await stat(top, { bigint: true });
    // A card that was pulled out leaves an empty folder behind, and folders below that vanished.
    if (before.ino !== after.ino || before.dev !== after.dev)
      throw new ArchiveError('not-found', `“${root}” was taken away while it was looked through.`);
  } catch (error) {
    throw diskError(error, root);
  }
  return { files: found.sort((a, b) => (a.path < b.path ? -1 : 1)), leftOut, unread };
}

/** Make the names of a folder last through a power cut (fsync of the folder). */
export async function syncFolder(path: string): Promise<void> {
  const handle = await open(bytesOfPath(path), constants.O_RDONLY | constants.O_DIRECTORY);
  try {
    await handle.sync();
  } finally {
    await handle.close();
  }
}

/** Make a folder and its parents. */
export async function makeFolder(path: string): Promise<void> {
  try {
    await mkdir(bytesOfPath(path), { recursive: true });
  } catch (error) {
    throw diskError(error, path);
  }
}

/**
 * Make a folder below a root and no other: its path goes neither up nor through a link.
 * @throws ArchiveError outside-place
 */
export async function makeFolderInside(root: string, folder: string): Promise<void> {
  const parts = folder === '' ? [] : folder.split('/');
  if (parts.some((part) => part === '' || part === '.' || part === '..'))
    throw new ArchiveError('outside-place', `“${folder}” is no folder of its place.`);
  let known = '';
  for (const part of parts) {
    const next = joinPath(known, part);
    if ((await factsOf(joinPath(root, next))) === null) break;
    known = next;
  }
  await realInside(joinPath(root, known), root);
  await makeFolder(joinPath(root, folder));
}

/** Remove a folder that holds nothing; no error where it is gone already. @throws ArchiveError conflict */
export async function removeEmptyFolder(path: string): Promise<void> {
  await rmdir(bytesOfPath(path)).catch((error: unknown) => {
    if (isCode(error, 'ENOENT')) return;
    if (isCode(error, 'ENOTEMPTY', 'EEXIST'))
      throw new ArchiveError('conflict', `“${splitPath(path).name}” is not empty.`);
    throw diskError(error, path);
  });
}

/** Remove a file; no error where it is gone already. */
export async function removeFile(path: string): Promise<void> {
  await unlink(bytesOfPath(path)).catch((error: unknown) => {
    if (!isCode(error, 'ENOENT')) throw diskError(error, path);
  });
}

/**
 * Give a file a new name without ever replacing another: link, then unlink. Kill it between the two and
 * both names lead to the same file, which a second call recognises and finishes.
 * @param isFirst nobody tried before: a file that is not there is gone, not moved already
 * @throws ArchiveError conflict where the new name belongs to another file, not-found
 */
export async function moveWithoutReplacing(
  from: string,
  to: string,
  isFirst = false,
): Promise<void> {
  try {
    await link(bytesOfPath(from), bytesOfPath(to));
  } catch (error) {
    if (isCode(error, 'EEXIST')) {
      const [source, target] = await Promise.all([factsOf(from), factsOf(to)]);
      const isSame = source && target && source.ino === target.ino && source.dev === target.dev;
      if (!isSame) throw new ArchiveError('conflict', `“${to}” is there already.`, { path: to });
      // Two ways to say one name, as on disks that ignore case: there is no second one to take away.
      if (from === to || source.nlink === 1n) return;
    } else if (!isFirst && isCode(error, 'ENOENT') && (await factsOf(to))) return;
    else if (isCode(error, 'EPERM', 'ENOTSUP', 'ENOSYS', 'EMLINK')) return renameFree(from, to);
    else throw diskError(error, from);
  }
  await removeFile(from);
}

/**
 * As {@link moveWithoutReplacing}, on disks where a file has one name only (exFAT, many network disks): it is looked
 * whether the new name is free, and renamed at once. Only another program that takes the name within that moment could
 * be in the way.
 */
async function renameFree(from: string, to: string): Promise<void> {
  const [source, target] = [await factsOf(from), await factsOf(to)];
  // On disks that ignore case both may be the same file.
  if (target && !(source && source.ino === target.ino && source.dev === target.dev))
    throw new ArchiveError('conflict', `“${to}” is there already.`, { path: to });
  try {
    await rename(bytesOfPath(from), bytesOfPath(to));
  } catch (error) {
    throw diskError(error, from);
  }
}

/**
 * Copy a file to a new path: read once, hashed while copying, synced, read back and compared.
 * Times are kept. An older remainder at the target is overwritten.
 * @param also is lent every piece that is copied
 * @returns the content hash of both
 * @throws ArchiveError file-changed where the copy reads differently
 */
export async function copyVerified(
  from: string,
  to: string,
  also: (bytes: Uint8Array) => void = () => undefined,
): Promise<ContentHash> {
  let hash: ContentHash;
  try {
    const source = await openPlain(from);
    try {
      const target = await open(bytesOfPath(to), WRITE_ANEW, 0o644);
      try {
        const hasher = await startHash();
        await eachPiece(source, async (bytes, at) => {
          hasher.update(bytes);
          also(bytes);
          await target.write(bytes, 0, bytes.length, at);
        });
        hash = endHash(hasher);
        const facts = await source.stat();
        await target.utimes(facts.atime, facts.mtime);
        await target.sync();
        const readBack = await hashHandle(target);
        if (readBack !== hash)
          throw new ArchiveError('file-changed', `The copy of “${from}” reads differently.`, {
            from,
            to,
          });
      } finally {
        await target.close();
      }
    } finally {
      await source.close();
    }
  } catch (error) {
    throw diskError(error, isCode(error, 'ENOSPC', 'EDQUOT') ? to : from);
  }
  return hash;
}

/** First bytes of a file, up to 4 kB. */
export async function headOf(path: string): Promise<Buffer> {
  try {
    return await withOpened(path, async (handle) => {
      const buffer = Buffer.alloc(4096);
      const { bytesRead } = await handle.read(buffer, 0, buffer.length, 0);
      return buffer.subarray(0, bytesRead);
    });
  } catch (error) {
    throw diskError(error, path);
  }
}

/** Names in a folder; empty where there is no folder. */
export async function namesIn(path: string): Promise<string[]> {
  try {
    const names = await readdir(bytesOfPath(path), { encoding: 'buffer' });
    return names.map((name) => textOfPath(name));
  } catch (error) {
    if (isCode(error, 'ENOENT')) return [];
    throw diskError(error, path);
  }
}

/** Whether something of ours is there. */
export const isThere = (path: string): Promise<boolean> =>
  stat(bytesOfPath(path)).then(
    () => true,
    () => false,
  );

/** Whether a folder is there. */
export async function isFolder(path: string): Promise<boolean> {
  return stat(bytesOfPath(path)).then(
    (facts) => facts.isDirectory(),
    () => false,
  );
}

/** Bytes that are free on the disk of a folder, for whoever is no superuser. */
export async function freeIn(path: string): Promise<number> {
  const { bavail, bsize } = await statfs(bytesOfPath(path));
  return bavail * bsize;
}

/** Free room in the folder of a path, for messages. */
export const folderOf = (path: string): string => splitPath(path).folder || '/';

/** Make what was written to a file last. */
export async function syncFile(path: string): Promise<void> {
  const handle = await open(bytesOfPath(path), 'r+');
  try {
    await handle.sync();
  } finally {
    await handle.close();
  }
}
