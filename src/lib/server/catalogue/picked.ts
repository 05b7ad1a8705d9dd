import { MOST_PICKED, type Picked } from '#core/query/picked';
import { ArchiveError } from '#core/errors';
import type { Viewer } from '#core/sight/viewer';
import { parseQuery } from '#core/query/grammar';
import { counted } from '#core/text/quantities';
import type { House } from '../house/house';
import { asSeen, seenIds, type SeenIds } from '../sight/seen';
import { idsBetween } from './reading';

/** Ids of what is chosen, as a query orders them; what it does not find comes last. */
export async function pickedInOrder(
  house: House,
  viewer: Viewer,
  picked: Picked,
  q: string,
): Promise<SeenIds> {
  const ids = await idsOfPicked(house, viewer, picked);
  if (!Array.isArray(picked)) return ids;
  const chosen = new Set(ids);
  const ordered: string[] = [];
  for (let from = 0; ordered.length < chosen.size; from += MOST_PICKED) {
    const some = await idsBetween(house, viewer, parseQuery(q), from, from + MOST_PICKED);
    for (const id of some) if (chosen.has(id)) ordered.push(id);
    if (some.length < MOST_PICKED) break;
  }
  const found = new Set(ordered);
  return asSeen([...ordered, ...ids.filter((id) => !found.has(id))]);
}

/**
 * Ids of what is chosen and may be acted on, in the order of its query.
 * @throws ArchiveError value-refused where they are too many for one step; not-found where none of those named is seen
 */
export async function idsOfPicked(house: House, viewer: Viewer, picked: Picked): Promise<SeenIds> {
  const ids = await seenOfPicked(house, viewer, picked);
  if (ids.length === 0 && Array.isArray(picked) && picked.length > 0)
    throw new ArchiveError('not-found', 'None of these items is there any more.');
  return ids;
}

/** Ids of what is chosen, as far as it is there and seen: there may be none. @throws ArchiveError value-refused */
export async function seenOfPicked(house: House, viewer: Viewer, picked: Picked): Promise<SeenIds> {
  // One that is named twice is one; those one may not see are none.
  if (Array.isArray(picked)) return seenIds(house.db, viewer, picked);
  const except = new Set(picked.except);
  const all = await idsBetween(
    house,
    viewer,
    parseQuery(picked.q),
    0,
    MOST_PICKED + except.size + 1,
  );
  const ids = all.filter((id) => !except.has(id));
  if (ids.length > MOST_PICKED)
    throw new ArchiveError(
      'value-refused',
      `These are more than ${counted(MOST_PICKED, 'item')}; narrow the sentence and go step by step.`,
    );
  return asSeen(ids);
}
