import { ArchiveError } from '#core/errors';
import { sendFile } from '../edge/send';
import { originalOf } from '../files/located';
import type { House } from '../house/house';
import { needsProxy } from './proxy';
import { proxyFile } from './store';

/** Send what plays. @throws ArchiveError not-found while its proxy is not made */
export async function sendMedia(house: House, request: Request, itemId: string): Promise<Response> {
  const file = await originalOf(house.db, itemId);
  if (file.kind !== 'footage' && file.kind !== 'sound')
    throw new ArchiveError('not-found', 'This item does not play.');
  const { technical } = await house.db
    .selectFrom('item')
    .select('technical')
    .where('id', '=', itemId)
    .executeTakeFirstOrThrow();
  if (!needsProxy(file.format, technical))
    return sendFile(request, file.path, { type: file.mediaType });
  const type = file.kind === 'footage' ? 'video/mp4' : 'audio/mp4';
  return sendFile(request, proxyFile(house, file.pictureKey, file.kind), { type });
}
