import { sql } from 'kysely';
import { z } from 'zod';
import { ArchiveError } from '#core/errors';
import { pickedSchema } from '#core/query/picked';
import { idsOfPicked } from '#server/catalogue/picked';
import { actorOf, endpoint } from '#server/edge/edge';

/** As many as anybody writes into an address. */
const MOST = 100;

/** Catalogue numbers of a few picked items, in their order. */
export const POST = endpoint({ body: z.object({ ids: pickedSchema }) }, async (event, wish) => {
  const picked = wish.ids;
  const ids = await idsOfPicked(event.locals.house, actorOf(event), picked);
  if (ids.length > MOST)
    throw new ArchiveError('value-refused', `Numbers are told of ${MOST} items at most.`);
  const rows = await event.locals.house.db
    .selectFrom('item')
    .select('number')
    .where('id', '=', sql<string>`any(${ids}::uuid[])`)
    .orderBy(sql`array_position(${ids}::uuid[], id)`)
    .execute();
  return { numbers: rows.map(({ number }) => number) };
});
