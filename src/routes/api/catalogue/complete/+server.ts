import { z } from 'zod';
import { complete, understand } from '#server/catalogue/complete';
import { actorOf, checked, endpoint } from '#server/edge/edge';
import type { RequestHandler } from './$types';

/** What is typed may be a few letters of a name, or a sentence. */
export const GET: RequestHandler = endpoint(async (event) => {
  const typed = checked(z.string().max(2000), event.url.searchParams.get('typed') ?? '');
  const { db, now } = event.locals.house;
  const viewer = actorOf(event);
  const [found, understood] = await Promise.all([
    complete(db, viewer, typed),
    typed.trim().includes(' ')
      ? understand(db, viewer, typed, now().toISOString().slice(0, 10))
      : null,
  ]);
  return { found, understood };
});
