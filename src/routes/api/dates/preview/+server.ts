import { z } from 'zod';
import { pickedSchema } from '#core/query/picked';
import { dateWishSchema } from '#core/records/dates';
import { idsOfPicked } from '#server/catalogue/picked';
import { actorOf, endpoint } from '#server/edge/edge';
import { datesPreview } from '#server/records/dates';

/** Every old and new date; nothing is changed. */
export const POST = endpoint(
  { body: z.object({ ids: pickedSchema, wish: dateWishSchema }) },
  async (event, { ids, wish }) => {
    const { house } = event.locals;
    return datesPreview(house.db, await idsOfPicked(house, actorOf(event), ids), wish);
  },
);
