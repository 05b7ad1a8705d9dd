import type { FilingChoices } from '#core/naming/wish';
import type { Picked } from '#core/query/picked';
import { counted } from '#core/text/quantities';
import { api } from '../common/api';
import { sayDone } from '../common/notices.svelte';
import { sayUndoable } from '../common/undoing';

/** Put items into one folder under the names they have; a name that is taken there refuses all of it, in words. */
export async function fileInto(
  folder: { placeId: string; path: string; name: string },
  itemIds: Picked,
): Promise<void> {
  const wish: FilingChoices = {
    copies: false,
    pattern: '',
    missing: 'leave',
    fallback: 'undated',
    clash: 'refuse',
    into: { placeId: folder.placeId, path: folder.path },
    removeEmptied: false,
  };
  const seen = await api.post('/api/filing/preview', { ...wish, itemIds });
  if (seen.changed === 0) return sayDone(`They lie in “${folder.name}” already.`);
  const { operation } = await api.post('/api/filing', {
    ...wish,
    itemIds,
    fingerprint: seen.fingerprint,
  });
  sayUndoable(`Filing ${counted(seen.changed, 'item')} into “${folder.name}”.`, operation);
}
