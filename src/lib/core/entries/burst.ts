import type { EntryKind } from './kind';

/** How an item stands in a burst; the entry's id is the item's. */
export interface BurstEntry {
  /** Id of the burst; null: it stands alone. */
  burst: string | null;
  /** It stands for the burst. */
  lead: boolean;
  /** Why it does. */
  reason: string | null;
  /** Somebody said so: it is not folded anew. */
  byHand: boolean;
}

const told = (entry: BurstEntry | null): string => {
  if (!entry?.burst) return 'alone';
  return entry.lead ? 'stands for its burst' : 'in a burst';
};
export const burst: EntryKind<BurstEntry> = {
  deed: 'bursts',
  about: ['items'],
  fields: ['burst', 'lead'],
  name: () => 'A frame of the burst',
  words: (was, is) => {
    const [before, after] = [told(was), told(is)];
    return { before, after: before === after && after !== 'alone' ? 'in another burst' : after };
  },
  itemOf: (id) => id,
  apart: true,
};
