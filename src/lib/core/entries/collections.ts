import type { CollectionEntry, PlacingEntry } from '../lists/entries';
import type { EntryKind, Words } from './kind';

const collected = { deed: 'collections', about: ['collections'] } as const;

export const collection: EntryKind<CollectionEntry> = { ...collected, name: ({ name }) => name };

/** An item that was put into a collection, taken out, or put elsewhere in it. */
function placingWords(was: PlacingEntry | null, is: PlacingEntry | null): Words {
  if (!was || !is)
    return { before: was ? 'in it' : 'not in it', after: is ? 'in it' : 'taken out' };
  if (was.note === is.note) return { before: 'in its place', after: 'put elsewhere in it' };
  return { before: `note: ${was.note || 'nothing'}`, after: `note: ${is.note || 'nothing'}` };
}
export const placing: EntryKind<PlacingEntry> = {
  ...collected,
  about: ['collections', 'items'],
  fields: ['collection'],
  name: () => 'An item of the collection',
  words: placingWords,
  itemOf: (id) => id.split('/')[1]!,
  apart: true,
};
