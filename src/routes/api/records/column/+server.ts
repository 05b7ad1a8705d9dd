import { z } from 'zod';
import { linesOf } from '#core/records/column';
import { counted } from '#core/text/quantities';
import { perform } from '#server/deeds/large';
import { pickedInOrder } from '#server/catalogue/picked';
import { actorOf, endpoint } from '#server/edge/edge';
import { columnSchema } from '#server/records/column';

const schema = columnSchema.extend({ fingerprint: z.string().max(100) });

/** Lay a pasted column over items, as it was shown. */
export const POST = endpoint(
  { body: schema },
  async (event, { ids, q, field, text, fingerprint }) => {
    const { house } = event.locals;
    const actor = actorOf(event);
    const items = await pickedInOrder(house, actor, ids, q);
    return perform(
      house,
      actor.id,
      'column',
      { ids: items, field, cells: linesOf(text), fingerprint },
      { size: items.length, title: `Laying a column over ${counted(items.length, 'item')}` },
    );
  },
);
