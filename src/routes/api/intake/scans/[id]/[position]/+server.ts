import { stat } from 'node:fs/promises';
import { z } from 'zod';
import { checked, endpoint } from '#server/edge/edge';
import { sendFile } from '#server/edge/send';
import { glimpseOf } from '#server/intake/look/glimpse';
import { pathInScan, previewFile } from '#server/intake/look/scan';

const addressSchema = z.object({ id: z.uuid(), position: z.coerce.number().int().min(0) });

/** The preview of a file in a source; before it is made, the small one its camera put into it. */
export const GET = endpoint(async ({ locals, params, request }) => {
  const { id, position } = checked(addressSchema, params);
  const made = previewFile(locals.house, id, position);
  const isMade = await stat(made).then(
    () => true,
    () => false,
  );
  if (isMade) return sendFile(request, made, { type: 'image/webp', forever: true });
  const small = await glimpseOf(await pathInScan(locals.house.db, id, position));
  // Nothing to show yet is no error: the tile asks again once the file was looked at.
  if (!small) return new Response(null, { status: 204 });
  return new Response(new Uint8Array(small), {
    headers: { 'content-type': 'image/webp', 'cache-control': 'private, no-store' },
  });
});
