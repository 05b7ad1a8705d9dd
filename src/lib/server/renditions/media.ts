import { sql } from 'kysely';
import { ArchiveError } from '#core/errors';
import type { Viewer } from '#core/sight/viewer';
import { sendFile } from '../edge/send';
import { isThere } from '../files/disk';
import type { LocatedFile } from '../files/located';
import type { House } from '../house/house';
import { enqueue } from '../jobs/queue';
import { fileFor } from '../sight/files';
import { seenBy } from '../sight/seen';
import { askForPictureOf, noteUse } from './cache';
import { needsProxy } from './proxy';
import { pictureFile, proxyFile, withoutChoice, type PictureSize } from './store';

/** Send what plays. @throws ArchiveError not-found while its proxy is not made */
export async function sendMedia(
  house: House,
  viewer: Viewer,
  request: Request,
  itemId: string,
): Promise<Response> {
  const file = await fileFor(house.db, viewer, itemId, 'play');
  if (file.kind !== 'footage' && file.kind !== 'sound')
    throw new ArchiveError('not-found', 'This item does not play.');
  const { technical } = await house.db
    .selectFrom('item')
    .select('technical')
    .where('id', '=', file.itemId)
    .executeTakeFirstOrThrow();
  if (!needsProxy(file.format, technical))
    return sendFile(request, file.path, { type: file.mediaType });
  const type = file.kind === 'footage' ? 'video/mp4' : 'audio/mp4';
  const path = proxyFile(house, file.pictureKey, file.kind);
  if (await isThere(path)) await noteUse(house, withoutChoice(file.pictureKey), 'proxy');
  else await askForProxy(house, file);
  return sendFile(request, path, { type });
}

/** It was let go, or never made; what failed is not tried again by looking at it. */
async function askForProxy({ db }: House, file: LocatedFile): Promise<void> {
  const failed = await db
    .selectFrom('job')
    .select('id')
    .where('itemId', '=', file.itemId)
    .where('task', '=', 'proxy')
    .where('state', '=', 'failed')
    .executeTakeFirst();
  const title = `Making a proxy of ${file.name}`;
  const wish = { subject: file.itemId, itemId: file.itemId };
  if (!failed) await enqueue(db, [{ task: 'proxy', title, ...wish }]);
}

/**
 * A picture is asked for by its item and its content: somebody may see the item, and the content is the item's.
 * @throws ArchiveError not-found
 */
export async function refusePicture(
  { db }: House,
  viewer: Viewer,
  itemId: string,
  key: string,
): Promise<void> {
  // What was chosen of a film or a raw file since changes the end of its key.
  const own = withoutChoice(key);
  const { rows } = await sql`select from item i join file f on f.item_id = i.holder_id
    where i.id = ${itemId}::uuid and ${seenBy(viewer, 'show', 'i')}
      and (f.picture_key in (${key}, ${own}) or f.essence_hash = ${own.split('-')[0]})
    limit 1`.execute(db);
  if (rows.length === 0) throw new ArchiveError('not-found', 'There is no such picture.');
}

/**
 * Send a picture. One that is not there is asked for, and the next smaller is sent meanwhile.
 * @throws ArchiveError not-found where there is none
 */
export async function sendPicture(
  house: House,
  request: Request,
  key: string,
  size: PictureSize,
): Promise<Response> {
  const send = (wished: PictureSize): Promise<Response> =>
    sendFile(request, pictureFile(house, key, wished), {
      type: 'image/webp',
      forever: wished === size,
    });
  const sent = await send(size).catch((error: unknown) => {
    if (error instanceof ArchiveError && error.code === 'not-found') return null;
    throw error;
  });
  if (sent) {
    if (size === 'large') await noteUse(house, key, 'large');
    return sent;
  }
  await askForPictureOf(house, key);
  return send(size === 'large' ? 'medium' : 'small');
}
