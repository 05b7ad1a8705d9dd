import { z } from 'zod';
import { body, endpoint } from '#server/edge/edge';
import { chooseFirstFields, firstFieldsSchema } from '#server/records/card';

/** Choose which fields stand first on everybody's record card. */
export const PUT = endpoint(async (event) => {
  const { fields } = await body(event, z.object({ fields: firstFieldsSchema }));
  await chooseFirstFields(event.locals.house.db, fields);
});
