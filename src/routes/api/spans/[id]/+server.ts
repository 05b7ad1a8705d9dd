import { z } from 'zod';
import { spanChangeSchema } from '#core/wire/spans';
import { actorOf, checked, endpoint } from '#server/edge/edge';
import { dropSpans } from '#server/spans/deeds';
import { changeSpan } from '#server/spans/spans';

/** Move or trim one, or mark it. */
export const PATCH = endpoint({ body: spanChangeSchema }, ({ locals, params }, change) => {
  const viewer = actorOf({ locals });
  const id = checked(z.uuid(), params['id']);
  return changeSpan(locals.house.db, { id: viewer.id, viewer }, id, change);
});

/** Let one go. */
export const DELETE = endpoint(({ locals, params }) => {
  const viewer = actorOf({ locals });
  const id = checked(z.uuid(), params['id']);
  return dropSpans(locals.house.db, { id: viewer.id, viewer }, [id]);
});
