import { z } from 'zod';
import { body, checked, endpoint } from '#server/edge/edge';
import { setPlugged } from '#server/intake/sources/sources';

/** Plug a simulated device in, or pull it out: also while it is being read. */
export const PUT = endpoint(async (event) => {
  const { plugged } = await body(event, z.object({ plugged: z.boolean() }));
  const key = checked(
    z.string().regex(/^[\w-]{1,80}$/, 'no device is called so'),
    event.params['key'],
  );
  await setPlugged(event.locals.house, key, plugged);
});
