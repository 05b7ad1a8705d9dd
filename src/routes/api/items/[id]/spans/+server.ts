import { z } from 'zod';
import { newSpansSchema } from '#core/wire/spans';
import { actorOf, checked, endpoint } from '#server/edge/edge';
import { clipOf, keepSpans, offsetSpans, spansOf } from '#server/spans/spans';
import { LAST_FRAME } from '#core/footage/span';

/** Spans and markers of a clip. */
export const GET = endpoint(async ({ locals, params }) => {
  const viewer = actorOf({ locals });
  const clip = await clipOf(locals.house.db, viewer, checked(z.uuid(), params['id']));
  return spansOf(locals.house.db, viewer, clip.id);
});

/** Keep some. */
export const POST = endpoint({ body: newSpansSchema }, ({ locals, params }, { spans }) => {
  const viewer = actorOf({ locals });
  const id = checked(z.uuid(), params['id']);
  return keepSpans(locals.house.db, { id: viewer.id, viewer }, id, spans);
});

/** Move all of them by some frames. */
export const PATCH = endpoint(
  { body: z.object({ by: z.number().int().min(-LAST_FRAME).max(LAST_FRAME) }) },
  ({ locals, params }, { by }) => {
    const viewer = actorOf({ locals });
    const id = checked(z.uuid(), params['id']);
    return offsetSpans(locals.house.db, { id: viewer.id, viewer }, id, by);
  },
);
