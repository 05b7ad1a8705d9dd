import { z } from 'zod';
import { checked, endpoint } from '#server/edge/edge';
import { setPlugged } from '#server/intake/sources/sources';

/** Plug a simulated device in, or pull it out: also while it is being read. */
export const PUT = endpoint(
  { body: z.object({ plugged: z.boolean() }) },
  async (event, { plugged }) => {
    const key = checked(
      z.string().regex(/^[\w-]{1,80}$/, 'no device is called so'),
      event.params['key'],
    );
    await setPlugged(event.locals.house, key, plugged);
  },
);
