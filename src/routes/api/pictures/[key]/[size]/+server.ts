import { z } from 'zod';
import { checked, endpoint } from '#server/edge/edge';
import { sendFile } from '#server/edge/send';
import { pictureFile, type PictureSize } from '#server/renditions/store';
import type { RequestHandler } from './$types';

const addressSchema = z.object({
  key: z.string().regex(/^[0-9a-f]{32}(-[1-8])?$/, 'this names no picture'),
  size: z.enum(['small', 'medium', 'large']),
});

export const GET: RequestHandler = endpoint(async ({ locals, params, request }) => {
  const { key, size } = checked(addressSchema, params);
  return sendFile(request, pictureFile(locals.house, key, size as PictureSize), {
    type: 'image/webp',
    forever: true,
  });
});
