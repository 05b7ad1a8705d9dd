import type { RoomSize } from '../rooms/grants';
import type { EntryKind } from './kind';

/** A reading room that is open; a closed one is none. */
export interface RoomEntry {
  title: string;
  greeting: string;
  /** Id of what hangs in it. */
  collection: string;
  sizes: RoomSize[];
  /** Last moment the link opens, ISO 8601. */
  expiresAt: string;
  /** SHA-256 of the link's token: tells whether it is the same link, and no more. */
  link: string;
}

export const room: EntryKind<RoomEntry> = {
  deed: 'rooms',
  about: ['rooms'],
  name: ({ title }) => title,
  words: (was, is) => {
    if (!was || !is) return { before: was ? 'open' : 'closed', after: is ? 'open' : 'closed' };
    return { before: 'the link before', after: 'a new link' };
  },
};
