import { z } from 'zod';
import { pickedSchema } from '#core/query/picked';
import { idsOfPicked } from '#server/catalogue/picked';
import { columnsSchema, csvOf } from '#server/catalogue/sheet';
import { csvResponse } from '#server/edge/csv';
import { actorOf, endpoint } from '#server/edge/edge';

const wishSchema = z.object({ ids: pickedSchema, fields: columnsSchema });

/** What is chosen as a table, with the columns of the Register. */
export const POST = endpoint({ body: wishSchema }, async (event, { ids: picked, fields }) => {
  const { house } = event.locals;
  const viewer = actorOf(event);
  const ids = await idsOfPicked(house, viewer, picked);
  return csvResponse(csvOf(house, viewer, ids, fields), 'register.csv');
});
