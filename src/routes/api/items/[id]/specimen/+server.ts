import { z } from 'zod';
import { actorOf, checked, endpoint } from '#server/edge/edge';
import { specimen } from '#server/renditions/looking';

const text = z.string().trim().min(1).max(300);

/** A line in the letters of a font, as outlines. */
export const GET = endpoint({ query: z.object({ text }) }, async ({ locals, params }, wish) => {
  const svg = await specimen(
    locals.house,
    actorOf({ locals }),
    checked(z.uuid(), params['id']),
    wish.text,
  );
  return new Response(svg, {
    headers: {
      'content-type': 'image/svg+xml',
      'content-security-policy': "sandbox; default-src 'none'",
      'x-content-type-options': 'nosniff',
    },
  });
});
