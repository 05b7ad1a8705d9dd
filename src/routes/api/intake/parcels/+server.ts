import { z } from 'zod';
import { actorOf, endpoint } from '#server/edge/edge';
import { heldNamesOf } from '#server/uploads/names';
import { newParcel } from '#server/uploads/parcels';

const wishSchema = z.object({
  kind: z.enum(['upload', 'sheet']).default('upload'),
  title: z.string().trim().min(1).max(200),
  /** What is about to come, so that it can be told what is held under such names. */
  files: z
    .array(z.object({ path: z.string().max(8000), size: z.number().int().min(0) }))
    .max(100_000)
    .default([]),
});

/** Begin a parcel. Answers which of the files to come are held under their names already. */
export const POST = endpoint({ body: wishSchema }, async (event, { kind, title, files }) => {
  const { house } = event.locals;
  const parcel = await newParcel(house, { kind, title, by: actorOf(event).id });
  return { ...parcel, held: await heldNamesOf(house.db, files) };
});
