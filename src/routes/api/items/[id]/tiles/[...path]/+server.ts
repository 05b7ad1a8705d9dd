import { join } from 'node:path';
import { z } from 'zod';
import { checked, endpoint } from '#server/edge/edge';
import { sendFile } from '#server/edge/send';
import { heldOriginalOf } from '#server/files/located';
import { tilesFolder } from '#server/renditions/store';
import type { RequestHandler } from './$types';

/** Level, column and row of a tile: `12/3_4.jpeg`. */
const tileSchema = z.string().regex(/^\d{1,2}\/\d{1,4}_\d{1,4}\.jpeg$/, 'this names no tile');

export const GET: RequestHandler = endpoint(async ({ locals, params, request }) => {
  const tile = checked(tileSchema, params['path']);
  const file = await heldOriginalOf(locals.house.db, checked(z.uuid(), params['id']));
  return sendFile(request, join(tilesFolder(locals.house, file.pictureKey), tile), {
    type: 'image/jpeg',
    forever: true,
  });
});
