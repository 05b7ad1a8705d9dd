import type { DeedName } from '../deeds/kinds';

/** Both sides of a change in words. */
export interface Words {
  before: string;
  after: string;
}

/** One kind of entry of the journal: kept whole, changed whole, told and undone by the same code as all others. */
export interface EntryKind<E> {
  /** Which kind of change of the ledger its changes are. */
  deed: DeedName;
  /** What open windows are told. */
  about: readonly ('lists' | 'collections' | 'rooms' | 'items')[];
  /** What an entry is called where it stands in the way. */
  name: (entry: E) => string;
  /** How a change is told; not given: what changed of it, part by part. */
  words?: (was: E | null, is: E | null) => Words;
  /** What files and words say of items that follow it. */
  said?: (entry: E) => unknown;
  /** Fields of items that change with an entry; not given: any. */
  fields?: readonly string[];
  /** The item an entry is about, from its id. */
  itemOf?: (id: string) => string;
  /** Other items an entry is seen with: who looks at them learns of it. */
  alsoAbout?: (entry: E) => readonly string[];
  /** Entries stand for themselves: where one changed since, the others may come back all the same. */
  apart?: true;
}
