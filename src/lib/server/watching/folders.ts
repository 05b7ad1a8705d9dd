import { watch, type FSWatcher } from 'node:fs';
import { lstat, readdir } from 'node:fs/promises';
import { join } from 'node:path';
import { isClutter } from '#core/kinds/kinds';

/** Folders that are watched, until `close`. */
export interface FolderWatch {
  /** Why some folder is not watched, in the system's words; null where all are, undefined until that is known. */
  deaf: () => string | null | undefined;
  close: () => void;
}

/** What tells of changes in one folder; tests put one there that refuses. */
export type WatchOne = (
  folder: string,
  heard: (event: string, name: string | null) => void,
) => Pick<FSWatcher, 'on' | 'close'>;

/**
 * Hear of every change below a folder. Folders alone are watched (inotify): they tell of every file in them, and
 * a hundred thousand files cost nothing. Watching by the name of each file would look at all files of a folder
 * again whenever one of them changes. Links and clutter are not followed.
 * @param onstir something changed somewhere; what, the one who compares finds out
 */
export function watchFolders(
  root: string,
  onstir: () => void,
  onwrong: (error: unknown) => void,
  watchOne: WatchOne = watch,
): FolderWatch {
  const watched = new Map<string, ReturnType<WatchOne>>();
  let closed = false;
  let deaf: string | null | undefined;

  const forget = (folder: string): void => {
    for (const [path, watcher] of watched)
      if (path === folder || path.startsWith(`${folder}/`)) {
        watcher.close();
        watched.delete(path);
      }
  };
  /** The system watches only so many folders, and not on every disk. Said once: there may be thousands. */
  function refused(error: unknown): void {
    if (typeof deaf !== 'string') onwrong(error);
    deaf = (error as Error).message;
  }
  /** A name in a watched folder came, went or changed: where it is a folder it is watched as well. */
  async function follow(path: string): Promise<void> {
    const facts = await lstat(path).catch(() => null);
    if (facts?.isDirectory()) await take(path);
    else if (watched.has(path)) forget(path);
  }
  function heard(folder: string, event: string, name: string | null): void {
    if (name !== null && isClutter(name)) return;
    onstir();
    if (event === 'rename' && name !== null) void follow(join(folder, name)).catch(onwrong);
  }
  async function take(folder: string): Promise<void> {
    if (closed) return;
    // One of this name may have gone: its watch sees nothing any more.
    if (watched.has(folder)) forget(folder);
    try {
      const watcher = watchOne(folder, (event, name) => heard(folder, event, name));
      watcher.on('error', refused);
      watched.set(folder, watcher);
      const entries = await readdir(folder, { withFileTypes: true });
      for (const entry of entries)
        if (entry.isDirectory() && !isClutter(entry.name)) await take(join(folder, entry.name));
      // What came before it was watched is found as well.
      if (folder !== root) onstir();
    } catch (error) {
      forget(folder);
      if ((error as NodeJS.ErrnoException).code !== 'ENOENT') refused(error);
    }
  }

  void take(root).then(() => (deaf ??= null));
  return {
    deaf: () => deaf,
    close() {
      closed = true;
      for (const watcher of watched.values()) watcher.close();
      watched.clear();
    },
  };
}
