import { z } from 'zod';
import { checked, endpoint } from '#server/edge/edge';
import { PICTURE_KEY } from '#server/renditions/store';
import { refuseUnheld, sendPicture } from '#server/renditions/media';
import type { RequestHandler } from './$types';

const addressSchema = z.object({
  key: z.string().regex(PICTURE_KEY, 'this names no picture'),
  size: z.enum(['small', 'medium', 'large']),
});

export const GET: RequestHandler = endpoint(async ({ locals, params, request }) => {
  const { key, size } = checked(addressSchema, params);
  await refuseUnheld(locals.house, key);
  return sendPicture(locals.house, request, key, size);
});
