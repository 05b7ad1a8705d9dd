import { z } from 'zod';
import { checked, endpoint } from '#server/edge/edge';
import { sendFile } from '#server/edge/send';
import { heldOriginalOf } from '#server/files/located';
import type { RequestHandler } from './$types';

/** The original, to be saved. */
export const GET: RequestHandler = endpoint(async ({ locals, params, request }) => {
  const file = await heldOriginalOf(locals.house.db, checked(z.uuid(), params['id']));
  return sendFile(request, file.path, { type: 'application/octet-stream', saveAs: file.name });
});
