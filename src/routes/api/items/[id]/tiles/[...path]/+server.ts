import { join } from 'node:path';
import { z } from 'zod';
import { actorOf, checked, endpoint } from '#server/edge/edge';
import { sendFile } from '#server/edge/send';
import { fileFor } from '#server/sight/files';
import { tilesFolder } from '#server/renditions/store';

/** Level, column and row of a tile: `12/3_4.jpeg`. */
const tileSchema = z.string().regex(/^\d{1,2}\/\d{1,4}_\d{1,4}\.jpeg$/, 'this names no tile');

export const GET = endpoint(async ({ locals, params, request }) => {
  const tile = checked(tileSchema, params['path']);
  const id = checked(z.uuid(), params['id']);
  const file = await fileFor(locals.house.db, actorOf({ locals }), id, 'play');
  return sendFile(request, join(tilesFolder(locals.house, file.pictureKey), tile), {
    type: 'image/jpeg',
    forever: true,
  });
});
