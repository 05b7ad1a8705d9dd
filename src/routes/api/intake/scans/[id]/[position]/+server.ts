import { z } from 'zod';
import { checked, endpoint } from '#server/edge/edge';
import { sendFile } from '#server/edge/send';
import { previewFile } from '#server/intake/scan';
import type { RequestHandler } from './$types';

const addressSchema = z.object({ id: z.uuid(), position: z.coerce.number().int().min(0) });

export const GET: RequestHandler = endpoint(({ locals, params, request }) => {
  const { id, position } = checked(addressSchema, params);
  return sendFile(request, previewFile(locals.house, id, position), {
    type: 'image/webp',
    forever: true,
  });
});
