import { z } from 'zod';
import { newSpansSchema } from '#core/wire/spans';
import { actorOf, checked, endpoint } from '#server/edge/edge';
import { clipOf, keepSpans, spansOf } from '#server/spans/spans';

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
