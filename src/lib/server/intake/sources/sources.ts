import { readdir, readFile, rename } from 'node:fs/promises';
import { join, resolve } from 'node:path';
import { z } from 'zod';
import { ArchiveError } from '#core/errors';
import { isInside } from '#core/holdings/grounds';
import { isClutter } from '#core/kinds/kinds';
import type { Source } from '#core/intake/facts';
import { diskError, makeFolder } from '../../files/disk';
import { checkGround, isOpenGround } from '../../files/grounds';
import { joinPath, textOfPath } from '../../files/paths';
import type { House } from '../../house/house';
import { notify } from '../../live/notify';
import { parcelById, parcelFiles } from '../../uploads/parcels';

const deviceSchema = z.object({ name: z.string(), kind: z.enum(['card', 'phone']) });

export interface Device {
  /** Folder name of the device; names it in addresses. */
  key: string;
  name: string;
  kind: 'card' | 'phone';
}

/** Simulated devices in a folder: folders with a device.json. */
async function devicesIn(folder: string): Promise<Device[]> {
  const keys = await readdir(folder).catch(() => [] as string[]);
  const devices = await Promise.all(
    keys.sort().map(async (key) => {
      try {
        const text = await readFile(join(folder, key, 'device.json'), 'utf8');
        return { key, ...deviceSchema.parse(JSON.parse(text)) };
      } catch {
        // A folder without a readable description is no device.
        return null;
      }
    }),
  );
  return devices.filter((device) => device !== null);
}

export const pluggedIn = (house: House): Promise<Device[]> => devicesIn(house.folders.devices);
/** Those in the drawer. */
export const unplugged = (house: House): Promise<Device[]> => devicesIn(house.folders.unplugged);

/** Plug a device in or pull it out; out of the middle of reading too. @throws ArchiveError not-found */
export async function setPlugged(house: House, key: string, plugged: boolean): Promise<void> {
  const [from, to] = plugged
    ? [house.folders.unplugged, house.folders.devices]
    : [house.folders.devices, house.folders.unplugged];
  if (!(await devicesIn(from)).some((device) => device.key === key))
    throw new ArchiveError('not-found', 'This device is not there any more.');
  await makeFolder(to);
  await rename(join(from, key), join(to, key));
  await notify(house.db, { about: 'places' });
}

/** Folders of the server that may be brought from; those on closed ground are not offered. */
export function allowedRoots(house: House): string[] {
  return [house.folders.incoming, ...house.settings.roots].filter((root) =>
    isOpenGround(house, root),
  );
}

/** Folder to read from, held inside what is allowed. @throws ArchiveError outside-place, not-found */
export async function rootOfSource(house: House, source: Source): Promise<string> {
  if (source.kind === 'device') {
    const device = (await pluggedIn(house)).find(({ key }) => key === source.name);
    if (!device) throw new ArchiveError('not-found', 'This device is not plugged in any more.');
    return checkGround(house, join(house.folders.devices, device.key, 'files'));
  }
  if (source.kind === 'drop-zone') return checkGround(house, house.folders.dropZone);
  if (source.kind !== 'folder') {
    const parcel = await parcelById(house, source.name);
    return checkGround(house, parcelFiles(house, parcel.id));
  }
  return allowedFolder(house, source.name);
}

const notAllowed = (path: string): ArchiveError =>
  new ArchiveError('outside-place', `“${path}” is not a folder you may bring from.`);

function allowedFolder(house: House, wished: string): string {
  const path = resolve('/', wished);
  const roots = allowedRoots(house);
  let real: string;
  try {
    real = checkGround(house, path);
  } catch (error) {
    // Whether there is anything outside the roots is nobody's business.
    if (roots.some((root) => isInside(path, root))) throw error;
    throw notAllowed(path);
  }
  if (roots.some((root) => isInside(real, checkGround(house, root)))) return real;
  throw notAllowed(path);
}

export interface ServerFolder {
  path: string;
  folders: string[];
  files: number;
}

/** Look into a folder of the server; without a path, the roots themselves. */
export async function lookInto(house: House, wished: string | null): Promise<ServerFolder> {
  if (!wished) {
    const roots = allowedRoots(house);
    return { path: '', folders: roots, files: 0 };
  }
  const path = allowedFolder(house, wished);
  try {
    const entries = await readdir(path, { withFileTypes: true, encoding: 'buffer' });
    const named = entries.map((entry) => ({
      entry,
      name: textOfPath(entry.name as unknown as Buffer),
    }));
    const shown = named.filter(({ name }) => !isClutter(name) && !name.startsWith('.'));
    return {
      path,
      folders: shown
        .filter(({ entry }) => entry.isDirectory())
        .map(({ name }) => joinPath(path, name))
        .sort(),
      files: shown.filter(({ entry }) => entry.isFile()).length,
    };
  } catch (error) {
    throw diskError(error, path);
  }
}
