import { z } from 'zod';
import { pickedSchema } from '#core/query/picked';
import { changeSchema, VALUES } from '#core/records/schemas';
import { idsOfPicked, seenOfPicked } from '#server/catalogue/picked';
import { actorOf, endpoint } from '#server/edge/edge';
import { counted } from '#core/text/quantities';
import { perform } from '#server/deeds/large';
import { summaryOfItems } from '#server/records/summary';
import { showItem } from '#server/catalogue/show';
import type { ShownItem } from '#core/wire/shown';
import type { SeenIds } from '#server/sight/seen';
import type { Summary } from '#core/records/merge';
import type { RequestEvent } from '@sveltejs/kit';

type CardAnswer = Summary & { bytes: number; item: ShownItem | null };

/** What a card tells of items: what is said of all, how large their originals are, and of one alone all that is known. */
async function told(event: RequestEvent, ids: SeenIds): Promise<CardAnswer> {
  const { db } = event.locals.house;
  const [summary, item] = await Promise.all([
    summaryOfItems(db, ids),
    ids.length === 1 ? showItem(db, actorOf(event), ids[0]!) : null,
  ]);
  return { ...summary, item };
}

/** What is said of many items. */
export const POST = endpoint({ body: z.object({ ids: pickedSchema }) }, async (event, wish) => {
  const picked = wish.ids;
  const ids = await seenOfPicked(event.locals.house, actorOf(event), picked);
  return told(event, ids);
});

/** Change the records of one or many items. */
export const PATCH = endpoint(
  {
    body: z.object({
      ids: pickedSchema,
      change: changeSchema,
      versions: z.record(z.string(), z.number()).default({}),
      base: z.object(VALUES).partial().optional(),
    }),
  },
  async (event, { ids: picked, change, versions, base }) => {
    const ids = await idsOfPicked(event.locals.house, actorOf(event), picked);
    const done = await perform(
      event.locals.house,
      actorOf(event).id,
      'describe',
      { ids, change, versions, base },
      { size: ids.length, title: `Describing ${counted(ids.length, 'item')}` },
    );
    return { ...done, card: await told(event, ids) };
  },
);
