import { z } from 'zod';
import { actorOf, checked, endpoint } from '#server/edge/edge';
import { sendFile } from '#server/edge/send';
import { fileFor } from '#server/sight/files';

/** The original, to be saved. */
export const GET = endpoint(async ({ locals, params, request }) => {
  const id = checked(z.uuid(), params['id']);
  const file = await fileFor(locals.house.db, actorOf({ locals }), id, 'take');
  return sendFile(request, file.path, { type: 'application/octet-stream', saveAs: file.name });
});
