import { z } from 'zod';
import { actorOf, endpoint } from '#server/edge/edge';
import { ledgerWishSchema } from '#server/ledger/export';
import { MOST_AT_ONCE, undoable, undoAll } from '#server/deeds/many';

/** What can be taken back of what the ledger is asked for. */
export const GET = endpoint({ query: ledgerWishSchema }, ({ locals }, wish) =>
  undoable(locals.house.db, wish),
);

const schema = z.object({ ids: z.array(z.uuid()).min(1).max(MOST_AT_ONCE) });

/** Take changes back, the newest first; each asks for what it asked for itself. */
export const POST = endpoint({ body: schema }, async (event, { ids }) => {
  return undoAll(event.locals.house, actorOf(event), ids);
});
