import { rename, rm, readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { z } from 'zod';
import { ArchiveError } from '#core/errors';
import { can } from '#core/people/roles';
import { apartFrom, nameKey } from '#core/naming/names';
import { uploadPath } from '#core/uploads/path';
import type { Actor } from '../auth/people';
import { makeFolder, namesIn, syncFolder, walk } from '../files/disk';
import { bytesOfPath, joinPath, realInside, splitPath } from '../files/paths';
import type { House } from '../house/house';
import { newId } from '../house/ids';

/** A parcel is a folder of ours that something arrives in: uploads, fetched pictures, a spreadsheet's files. */
export interface Parcel {
  id: string;
  kind: 'upload' | 'web' | 'sheet';
  title: string;
  by: string | null;
}

const idSchema = z.uuid();
const aboutSchema = z.object({
  kind: z.enum(['upload', 'web', 'sheet']),
  title: z.string(),
  by: z.string().nullable(),
});

const folderIn = (uploads: string, id: string): string => join(uploads, idSchema.parse(id));
const folderOf = (house: House, id: string): string => folderIn(house.folders.uploads, id);
/** Where a parcel's files lie. */
export const parcelFiles = (house: House, id: string): string => join(folderOf(house, id), 'files');

export async function newParcel(house: House, about: Omit<Parcel, 'id'>): Promise<Parcel> {
  const id = newId();
  await makeFolder(parcelFiles(house, id));
  await writeFile(join(folderOf(house, id), 'parcel.json'), JSON.stringify(about));
  return { id, ...about };
}

/** @throws ArchiveError not-found */
export async function parcelById(house: House, id: string): Promise<Parcel> {
  try {
    const text = await readFile(join(folderOf(house, id), 'parcel.json'), 'utf8');
    return { id, ...aboutSchema.parse(JSON.parse(text)) };
  } catch (error) {
    throw new ArchiveError(
      'not-found',
      'This parcel is not kept any more; send the files again.',
      {},
      { cause: error },
    );
  }
}

/** A parcel belongs to whoever sent it, and to those who keep the archive. @returns its id @throws ArchiveError not-found */
export async function ownParcel(
  house: House,
  actor: Pick<Actor, 'id' | 'role'>,
  id: string,
): Promise<string> {
  const { by } = await parcelById(house, id);
  if (by !== actor.id && !can(actor.role, 'manage'))
    throw new ArchiveError('not-found', 'This parcel is not yours.');
  return id;
}

/**
 * Put a whole file that lies in our folder into a parcel, under the path it was told. Two of one path are
 * both kept.
 * @param uploads the room of all parcels
 * @returns its path in the parcel
 */
export async function putIntoParcel(
  uploads: string,
  id: string,
  told: string,
  from: string,
): Promise<string> {
  const root = join(folderIn(uploads, id), 'files');
  const { folder, name } = splitPath(uploadPath(told));
  const target = joinPath(root, folder);
  await makeFolder(target);
  await realInside(target, root);
  const names = new Set((await namesIn(target)).map(nameKey));
  const free = apartFrom(name, (key) => names.has(key));
  await rename(bytesOfPath(from), bytesOfPath(joinPath(target, free)));
  await syncFolder(target);
  return joinPath(folder, free);
}

export interface ParcelContent extends Parcel {
  files: { path: string; size: number }[];
}

export async function readParcel(house: House, id: string): Promise<ParcelContent> {
  const parcel = await parcelById(house, id);
  const files = await walk(parcelFiles(house, id));
  return { ...parcel, files: files.map(({ path, size }) => ({ path, size })) };
}

const PARCEL = /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/;

/** Ids of all parcels, oldest first. */
export const parcelIds = async (house: House): Promise<string[]> =>
  (await namesIn(house.folders.uploads)).filter((name) => PARCEL.test(name)).sort();

/** Ids of the parcels of one person. */
export async function parcelsOf(house: House, person: string): Promise<string[]> {
  const ids = await parcelIds(house);
  const all = await Promise.all(ids.map((id) => parcelById(house, id).catch(() => null)));
  return all.flatMap((parcel) => (parcel?.by === person ? [parcel.id] : []));
}

export async function dropParcel(house: House, id: string): Promise<void> {
  await rm(folderOf(house, id), { recursive: true, force: true });
}
