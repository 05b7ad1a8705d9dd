import { rename, rm, stat } from 'node:fs/promises';
import { ArchiveError } from '#core/errors';
import type { Kind } from '#core/kinds/kinds';
import { leaves, type Leaving } from '#core/rooms/grants';
import { splitName } from '#core/naming/names';
import { apart, runApart } from '../apart/apart';
import { sendFile } from '../edge/send';
import { isThere } from '../files/disk';
import type { LocatedFile } from '../files/located';
import type { House } from '../house/house';
import { newId } from '../house/ids';
import type { guestJpeg, guestWebp } from '../renditions/guest';
import { askForPictureOf, noteUse } from '../renditions/cache';
import {
  noteRenditions,
  pictureFile,
  proxyFile,
  ROOM_EDGE,
  roomJpegFile,
  roomPictureFile,
} from '../renditions/store';
import { askForProxies } from './proxies';
import { fileFor } from '../sight/files';
import { guestOf, kindInRoom, type OpenRoom } from './rooms';

/** What a guest asks for leaves through here, and is asked of the grants each time. */
export interface Guest {
  house: House;
  request: Request;
  room: OpenRoom;
}

/** @throws ArchiveError not-found where the item does not hang here, not-allowed where this is not granted */
async function granted(
  { house, room }: Guest,
  itemId: string,
  wish: Leaving,
): Promise<{ file: LocatedFile; kind: Kind }> {
  const kind = await kindInRoom(house.db, room, itemId);
  if (!leaves(room.sizes, kind, wish))
    throw new ArchiveError('not-allowed', 'This room does not give this away.');
  const purpose =
    wish === 'original' || wish === 'picture-2048' ? 'take' : wish === 'proxy' ? 'play' : 'show';
  return { file: await fileFor(house.db, guestOf(room), itemId, purpose), kind };
}

const WEBP = apart<typeof guestWebp>('renditions/guest', 'guestWebp', 'pictures');
const JPEG = apart<typeof guestJpeg>('renditions/guest', 'guestJpeg', 'pictures');
const SECONDS = 30;

async function readyPicture(house: House, key: string): Promise<string> {
  const large = pictureFile(house, key, 'large');
  if (await isThere(large)) {
    await noteUse(house, key, 'large');
    return large;
  }
  await askForPictureOf(house, key);
  throw new ArchiveError('not-found', 'There is no picture of this, or it is not made yet.');
}

/** What a guest sees or takes, made in a process of its own where it is not there yet. */
async function made(
  house: House,
  key: string,
  {
    recipe,
    target,
    make,
  }: {
    recipe: string;
    target: string;
    make: (wish: { from: string; to: string }) => Promise<void>;
  },
): Promise<string> {
  if (await isThere(target)) {
    await noteUse(house, key, recipe);
    return target;
  }
  const from = await readyPicture(house, key);
  const temporary = `${target}.${newId()}`;
  try {
    await make({ from, to: temporary });
    await rename(temporary, target);
    const { size: bytes } = await stat(target);
    await noteRenditions(house, key, [{ recipe, bytes }]);
  } finally {
    await rm(temporary, { force: true });
  }
  return target;
}

const roomPicture = (house: House, key: string): Promise<string> =>
  made(house, key, {
    recipe: 'room',
    target: roomPictureFile(house, key),
    make: (wish) => runApart(WEBP, { ...wish, edge: ROOM_EDGE }, SECONDS),
  });

/** A picture to be seen: `large` is the largest this room shows. */
export async function sendRoomPicture(
  guest: Guest,
  itemId: string,
  size: 'small' | 'medium' | 'large',
): Promise<Response> {
  const { house, request, room } = guest;
  const { file, kind } = await granted(guest, itemId, 'picture-small');
  const key = file.pictureKey;
  if (size !== 'large')
    return sendFile(request, pictureFile(house, key, size), { type: 'image/webp' });
  const path = leaves(room.sizes, kind, 'picture-2048')
    ? await readyPicture(house, key)
    : await roomPicture(house, key);
  return sendFile(request, path, { type: 'image/webp' });
}

/** What plays: always a proxy. @throws ArchiveError not-found while it is made */
export async function sendRoomMedia(guest: Guest, itemId: string): Promise<Response> {
  const { house, request, room } = guest;
  const { file, kind } = await granted(guest, itemId, 'proxy');
  const plays = kind === 'sound' ? 'sound' : 'footage';
  const path = proxyFile(house, file.pictureKey, plays);
  if (!(await isThere(path))) {
    await askForProxies(house.db, room.collectionId, itemId);
    throw new ArchiveError('not-found', 'This is being made ready to play; try again in a while.');
  }
  return sendFile(request, path, { type: plays === 'footage' ? 'video/mp4' : 'audio/mp4' });
}

/** The file itself, to be saved. */
export async function sendRoomOriginal(guest: Guest, itemId: string): Promise<Response> {
  const { file } = await granted(guest, itemId, 'original');
  const options = { type: 'application/octet-stream', saveAs: file.name };
  return sendFile(guest.request, file.path, options);
}

/** A JPEG of 2048 px, to be saved. */
export async function sendRoomJpeg(guest: Guest, itemId: string): Promise<Response> {
  const { house, request } = guest;
  const { file } = await granted(guest, itemId, 'picture-2048');
  const path = await made(house, file.pictureKey, {
    recipe: 'room-jpeg',
    target: roomJpegFile(house, file.pictureKey),
    make: (wish) => runApart(JPEG, wish, SECONDS),
  });
  return sendFile(request, path, {
    type: 'image/jpeg',
    saveAs: `${splitName(file.name).stem}-2048.jpg`,
  });
}
