import { z } from 'zod';
import { ArchiveError } from '#core/errors';
import { pickedSchema } from '#core/query/picked';
import { BURST_ACTS } from '#core/bursts/byHand';
import { burstByHand } from '#server/lists/burstsByHand';
import { idsOfPicked } from '#server/catalogue/picked';
import { actorOf, endpoint } from '#server/edge/edge';

/** More frames than any camera takes at a press. */
const MOST = 2000;
const wish = z.object({ ids: pickedSchema, act: z.enum(BURST_ACTS) });

/** Fold frames by hand, take them apart, or let another one stand for its burst. */
export const POST = endpoint({ body: wish }, async (event, { ids: picked, act }) => {
  const viewer = actorOf(event);
  const ids = await idsOfPicked(event.locals.house, viewer, picked);
  if (ids.length > MOST)
    throw new ArchiveError('value-refused', `A burst has ${MOST} frames at most.`);
  if (act === 'fold' && ids.length < 2)
    throw new ArchiveError('value-refused', 'Choose the frames that belong together.');
  const { db } = event.locals.house;
  return { changed: await burstByHand(db, { id: viewer.id, viewer }, ids, act) };
});
