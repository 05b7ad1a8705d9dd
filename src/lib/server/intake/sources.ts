import { readdir, readFile, realpath, rename } from 'node:fs/promises';
import { join, resolve } from 'node:path';
import { z } from 'zod';
import { ArchiveError } from '#core/errors';
import { isClutter } from '#core/kinds/kinds';
import type { Source } from '../db/schema';
import { diskError, isFolder, makeFolder } from '../files/disk';
import { isInside, joinPath, realInside, textOfPath } from '../files/paths';
import type { House } from '../house/house';
import { notify } from '../live/notify';
import { parcelById, parcelFiles } from '../uploads/parcels';

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

export const pluggedIn = (house: House): Promise<Device[]> => devicesIn(house.rooms.devices);
/** Those in the drawer. */
export const unplugged = (house: House): Promise<Device[]> => devicesIn(house.rooms.unplugged);

/** Plug a device in or pull it out; out of the middle of reading too. @throws ArchiveError not-found */
export async function setPlugged(house: House, key: string, plugged: boolean): Promise<void> {
  const [from, to] = plugged
    ? [house.rooms.unplugged, house.rooms.devices]
    : [house.rooms.devices, house.rooms.unplugged];
  if (!(await devicesIn(from)).some((device) => device.key === key))
    throw new ArchiveError('not-found', 'This device is not there any more.');
  await makeFolder(to);
  await rename(join(from, key), join(to, key));
  await notify(house.db, { about: 'places' });
}

/** The folders a keeper may bring from. */
export function allowedRoots(house: House): string[] {
  return [house.rooms.incoming, ...house.settings.roots];
}

/** Folder to read from, held inside what is allowed. @throws ArchiveError outside-place, not-found */
export async function rootOfSource(house: House, source: Source): Promise<string> {
  if (source.kind === 'device') {
    const device = (await pluggedIn(house)).find(({ key }) => key === source.name);
    if (!device) throw new ArchiveError('not-found', 'This device is not plugged in any more.');
    return join(house.rooms.devices, device.key, 'files');
  }
  if (source.kind === 'drop-zone') return house.rooms.dropZone;
  if (source.kind !== 'folder') {
    const parcel = await parcelById(house, source.name);
    return parcelFiles(house, parcel.id);
  }
  return allowedFolder(house, source.name);
}

async function allowedFolder(house: House, wished: string): Promise<string> {
  const path = resolve('/', wished);
  for (const root of allowedRoots(house)) {
    if (!isInside(path, root) && !(await isRealInside(path, root))) continue;
    const real = await realInside(path, root);
    if (isInside(real, resolve(house.settings.home)) && !isInside(real, house.rooms.incoming))
      break;
    return real;
  }
  throw new ArchiveError('outside-place', `“${path}” is not a folder you may bring from.`, {
    path,
  });
}

const isRealInside = async (path: string, root: string): Promise<boolean> =>
  realpath(path).then(
    (real) => isInside(real, root),
    () => false,
  );

export interface ServerFolder {
  path: string;
  folders: string[];
  files: number;
}

/** Look into a folder of the server; without a path, the roots themselves. */
export async function lookInto(house: House, wished: string | null): Promise<ServerFolder> {
  if (!wished) {
    const roots = allowedRoots(house);
    const there = await Promise.all(roots.map(isFolder));
    return { path: '', folders: roots.filter((_, index) => there[index]), files: 0 };
  }
  const path = await allowedFolder(house, wished);
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
