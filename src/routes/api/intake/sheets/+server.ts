import { z } from 'zod';
import { planSchema } from '#core/intake/plan';
import { runApart } from '#server/apart/apart';
import { TEMPLATE } from '#server/sheets/apart';
import { actorOf, endpoint } from '#server/edge/edge';
import { attachment } from '#server/edge/send';
import { placeById } from '#server/places/places';
import { dryRun, fetchForSheet, startSheet, told } from '#server/sheets/sheets';
import { templateCsv } from '#server/sheets/templateCsv';

const XLSX = 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet';

/** The template, to be saved and filled. */
export const GET = endpoint(
  { query: z.object({ format: z.enum(['xlsx', 'csv']).default('xlsx') }) },
  async (...[, { format }]) => {
    void event;
    return new Response(
      format === 'csv' ? templateCsv() : new Uint8Array(await runApart(TEMPLATE, undefined, 20)),
      {
        headers: {
          'content-type': format === 'csv' ? 'text/csv; charset=utf-8' : XLSX,
          'content-disposition': attachment(`Intake template.${format}`),
        },
      },
    );
  },
);

/** Dry run: what would come in, and every error by its row and column. */
export const POST = endpoint(
  { body: z.object({ parcel: z.uuid(), fetch: z.boolean().default(false) }) },
  async (event, { parcel, fetch }) => {
    const { house } = event.locals;
    if (fetch) await fetchForSheet(house, actorOf(event).id, parcel);
    return told(await dryRun(house, parcel));
  },
);

/** Bring the good rows in. */
export const PUT = endpoint(
  {
    body: z.object({
      parcel: z.uuid(),
      placeId: z.uuid(),
      title: z.string().trim().min(1).max(200),
      plan: planSchema,
    }),
  },
  async (event, wish) => {
    const { house } = event.locals;
    const place = await placeById(house.db, wish.placeId);
    return startSheet(house, actorOf(event).id, { ...wish, place });
  },
);
