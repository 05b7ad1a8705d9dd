import sharp from 'sharp';
import { z } from 'zod';
import { ArchiveError } from '#core/errors';
import { splitName } from '#core/naming/pattern';
import { checked, endpoint } from '#server/edge/edge';
import { attachment, sendFile } from '#server/edge/send';
import { originalOf } from '#server/files/located';
import { pictureFile } from '#server/renditions/store';
import { enterRoom } from '#server/rooms/guest';
import { checkInRoom, noteDownload, ROOM_SIZES, type RoomSize } from '#server/rooms/rooms';
import type { RequestHandler } from './$types';

const addressSchema = z.object({ item: z.uuid(), size: z.enum(ROOM_SIZES) });

/** What a guest takes away: only the sizes this room allows. */
export const GET: RequestHandler = endpoint(async (event) => {
  const { house } = event.locals;
  const { room, visitId } = await enterRoom(event);
  const { item, size } = checked(addressSchema, {
    item: event.params['item'],
    size: event.params['size'],
  });
  await checkInRoom(house.db, room, item);
  if (!room.sizes.includes(size as RoomSize))
    throw new ArchiveError('not-allowed', 'This room does not give this size away.');
  const file = await originalOf(house.db, item);
  await noteDownload(house.db, room.id, visitId, item, size as RoomSize);
  if (size === 'original')
    return sendFile(event.request, file.path, {
      type: 'application/octet-stream',
      saveAs: file.name,
    });
  const jpeg = await sharp(pictureFile(house, file.pictureKey, 'large'))
    .flatten({ background: '#ffffff' })
    .jpeg({ quality: 90 })
    .withIccProfile('srgb')
    .toBuffer();
  return new Response(new Uint8Array(jpeg), {
    headers: {
      'content-type': 'image/jpeg',
      'content-length': String(jpeg.length),
      'content-disposition': attachment(`${splitName(file.name).stem}-2048.jpg`),
      'cache-control': 'private, no-store',
    },
  });
});
