import { z } from 'zod';
import { ArchiveError } from '#core/errors';
import { pickedSchema } from '#core/query/picked';
import { foldByHand, putFirst, unfoldByHand } from '#server/bursts/bursts';
import { idsOfPicked } from '#server/catalogue/picked';
import { actorOf, body, endpoint } from '#server/edge/edge';
import type { RequestHandler } from './$types';

/** More frames than any camera takes at a press. */
const MOST = 2000;
const wish = z.object({ ids: pickedSchema, act: z.enum(['fold', 'unfold', 'first']) });

/** Fold frames by hand, take them apart, or let another one stand for its burst. */
export const POST: RequestHandler = endpoint(async (event) => {
  const { ids: picked, act } = await body(event, wish);
  const ids = await idsOfPicked(event.locals.house, actorOf(event), picked);
  if (ids.length > MOST)
    throw new ArchiveError('value-refused', `A burst has ${MOST} frames at most.`);
  const { db } = event.locals.house;
  if (act === 'unfold') await unfoldByHand(db, ids);
  else if (act === 'first') await putFirst(db, ids[0]!);
  else if (ids.length < 2)
    throw new ArchiveError('value-refused', 'Choose the frames that belong together.');
  else await foldByHand(db, ids);
  return { changed: ids.length };
});
