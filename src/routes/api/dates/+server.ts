import { z } from 'zod';
import { pickedSchema } from '#core/query/picked';
import { dateWishSchema } from '#core/records/dates';
import { idsOfPicked } from '#server/catalogue/picked';
import { actorOf, endpoint } from '#server/edge/edge';
import { perform } from '#server/deeds/large';
import { counted } from '#core/text/quantities';

const schema = z.object({
  ids: pickedSchema,
  wish: dateWishSchema,
  fingerprint: z.string().max(100),
});

/** Set dates as they were shown. */
export const POST = endpoint({ body: schema }, async (event, { ids, wish, fingerprint }) => {
  const { house } = event.locals;
  const actor = actorOf(event);
  const items = await idsOfPicked(house, actor, ids);
  return perform(
    house,
    actor.id,
    'dates',
    { ids: items, wish, fingerprint },
    { size: items.length, title: `Setting dates of ${counted(items.length, 'item')}` },
  );
});
