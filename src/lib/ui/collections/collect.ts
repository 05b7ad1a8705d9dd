import type { Picked } from '#core/query/picked';
import { counted } from '#core/text/quantities';
import { api } from '../common/api';
import { sayDone } from '../common/notices.svelte';

/** Put items into a collection; the notice offers to take them out again. */
export async function collectInto(
  collection: { id: string; name: string },
  itemIds: Picked,
  count: number,
): Promise<void> {
  const path = `/api/collections/${collection.id}/items` as const;
  const { added } = await api.post(path, { itemIds });
  const held = count - added;
  const already = held ? `; ${held} ${held === 1 ? 'was' : 'were'} in it already` : '';
  const undo = {
    label: 'Undo',
    run: async () => {
      await api.delete(path, { itemIds });
    },
  };
  sayDone(
    `${counted(added, 'item')} added to “${collection.name}”${already}.`,
    // What was in it before stays in it.
    added > 0 && held === 0 ? undo : undefined,
  );
}
