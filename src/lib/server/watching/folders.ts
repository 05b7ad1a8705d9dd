import { watch, type FSWatcher } from 'node:fs';
import { lstat, readdir } from 'node:fs/promises';
import { join } from 'node:path';
import { isClutter } from '#core/kinds/kinds';

/** Folders that are watched, until `close`. */
export interface FolderWatch {
  close: () => void;
}

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
): FolderWatch {
  const watched = new Map<string, FSWatcher>();
  let closed = false;

  const forget = (folder: string): void => {
    for (const [path, watcher] of watched)
      if (path === folder || path.startsWith(`${folder}/`)) {
        watcher.close();
        watched.delete(path);
      }
  };
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
      const watcher = watch(folder, (event, name) => heard(folder, event, name));
      watcher.on('error', onwrong);
      watched.set(folder, watcher);
      const entries = await readdir(folder, { withFileTypes: true });
      for (const entry of entries)
        if (entry.isDirectory() && !isClutter(entry.name)) await take(join(folder, entry.name));
      // What came before it was watched is found as well.
      if (folder !== root) onstir();
    } catch (error) {
      forget(folder);
      if ((error as NodeJS.ErrnoException).code !== 'ENOENT') onwrong(error);
    }
  }

  void take(root);
  return {
    close() {
      closed = true;
      for (const watcher of watched.values()) watcher.close();
      watched.clear();
    },
  };
}
