import { z } from 'zod';
import { endpoint } from '#server/edge/edge';
import { chooseFirstFields, firstFieldsSchema } from '#server/records/card';

/** Choose which fields stand first on everybody's record card. */
export const PUT = endpoint(
  { body: z.object({ fields: firstFieldsSchema }) },
  async (event, { fields }) => {
    await chooseFirstFields(event.locals.house.db, fields);
  },
);
