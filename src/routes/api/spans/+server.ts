import { spansDeedSchema } from '#core/wire/spans';
import { actorOf, endpoint } from '#server/edge/edge';
import { doSpans } from '#server/spans/deeds';

/** Drop, mark, join, split, move or copy spans. */
export const POST = endpoint({ body: spansDeedSchema }, ({ locals }, deed) => {
  const viewer = actorOf({ locals });
  return doSpans(locals.house.db, { id: viewer.id, viewer }, deed);
});
