/**
 * On which ground files may be brought from, looked after or written to. A folder of the server is closed where
 * it is, contains or lies in what must stay private: the data folder, the application, the system's own folders,
 * any dot-folder. A path alone does not tell: the same folder may be mounted twice, so folders are compared by
 * where they lie on their file system.
 */

/** One mount, of /proc/self/mountinfo (proc(5)). */
export interface Mount {
  /** `major:minor` of the file system. */
  device: string;
  /** Folder of the file system that is mounted. */
  root: string;
  /** Where it is mounted. */
  point: string;
}

/** A folder that stays closed, and how it is called in a refusal. */
export interface ClosedFolder {
  path: string;
  called: string;
}

/** The system's own folders (Filesystem Hierarchy Standard 3.0); `/` is refused as it contains them. */
export const SYSTEM_FOLDERS = [
  ...['/bin', '/boot', '/dev', '/etc', '/lib', '/lib32', '/lib64', '/libx32', '/proc', '/run'],
  ...['/sbin', '/sys', '/usr'],
  ...['backups', 'cache', 'lib', 'local', 'lock', 'log', 'mail', 'opt', 'run', 'spool'].map(
    (name) => `/var/${name}`,
  ),
];
/** Where desktops mount cards and drives, although it lies in a folder of the system. */
export const MEDIA_FOLDERS = ['/run/media'];

/** Mounts of the text of /proc/self/mountinfo; lines nobody understands are left out. */
export function parseMounts(text: string): Mount[] {
  const unescaped = (field: string): string =>
    field.replace(/\\([0-7]{3})/g, (_, octal: string) => String.fromCharCode(parseInt(octal, 8)));
  return text.split('\n').flatMap((line) => {
    const [, , device, root, point] = line.split(' ');
    if (!device || !root?.startsWith('/') || !point?.startsWith('/')) return [];
    return [{ device, root: unescaped(root), point: unescaped(point) }];
  });
}

/** Whether a path lies in a folder or is it. Both absolute and without links. */
export function isInside(path: string, folder: string): boolean {
  return path === folder || path.startsWith(folder === '/' ? '/' : `${folder}/`);
}

/** Where a real path lies on its file system: `device:path`. */
export function locationOf(path: string, mounts: Mount[]): string {
  let best: Mount | null = null;
  for (const mount of mounts)
    if (isInside(path, mount.point) && (!best || mount.point.length >= best.point.length))
      best = mount;
  if (!best) return `:${path}`;
  const below = path.slice(best.point === '/' ? 0 : best.point.length);
  return `${best.device}:${`${best.root}/${below}`.replace(/\/{2,}/g, '/').replace(/(.)\/$/, '$1')}`;
}

const deviceOf = (location: string): string => location.slice(0, location.lastIndexOf(':') + 1);
const within = (inner: string, outer: string): boolean =>
  deviceOf(inner) === deviceOf(outer) &&
  isInside(inner.slice(deviceOf(inner).length), outer.slice(deviceOf(outer).length));

export const hasDotFolder = (path: string): boolean => /\/\.[^/]/.test(path.replace(/^[^/]*/, ''));

/**
 * Why a folder is closed, in words that follow its name; null where it is open.
 * @param path real absolute path of the folder
 */
export function groundProblem(
  path: string,
  closed: ClosedFolder[],
  mounts: Mount[],
): string | null {
  const location = locationOf(path, mounts);
  if (hasDotFolder(path) || hasDotFolder(location)) return 'lies in a hidden folder';
  if (MEDIA_FOLDERS.some((folder) => isInside(path, folder) && path !== folder))
    closed = closed.filter(({ path: one }) => !isInside(path, one) || one !== '/run');
  const below = mounts.filter(({ point }) => point !== path && isInside(point, path));
  for (const { path: one, called } of closed) {
    const place = locationOf(one, mounts);
    if (within(location, place)) return path === one ? `is ${called}` : `lies in ${called}`;
    if (within(place, location)) return `contains ${called}`;
    for (const { point } of below) {
      const mounted = locationOf(point, mounts);
      if (within(place, mounted) || within(mounted, place)) return `contains ${called}`;
    }
  }
  return null;
}

/**
 * Why a folder of one of our own rooms is closed: something was mounted within the room that leads to closed ground.
 * @param room the room it lies in
 */
export function mountedProblem(
  path: string,
  room: string,
  closed: ClosedFolder[],
  mounts: Mount[],
): string | null {
  const concerned = mounts.filter(
    ({ point }) =>
      point !== room && isInside(point, room) && (isInside(path, point) || isInside(point, path)),
  );
  for (const { point } of concerned)
    for (const { path: one, called } of closed) {
      const [mounted, place] = [locationOf(point, mounts), locationOf(one, mounts)];
      if (within(mounted, place) || within(place, mounted)) return `leads into ${called}`;
    }
  return null;
}
