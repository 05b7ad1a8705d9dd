import type { Piece } from '../footage/sequence';
import { counted } from '../text/quantities';
import type { EntryKind } from './kind';

/** A rough sequence: spans, clips and stills in an order. Nothing is cut: the clips stay as they are. */
export interface SequenceEntry {
  name: string;
  note: string;
  /** Frames a second it is counted in. */
  rate: number;
  /** How long stills stand that are put into it, seconds. */
  stills: number;
  /** The sound of its clips is heard. */
  sound: boolean;
  pieces: Piece[];
}

const told = (entry: SequenceEntry | null): string =>
  entry ? `“${entry.name}”, ${counted(entry.pieces.length, 'piece')}` : 'none';
export const sequence: EntryKind<SequenceEntry> = {
  deed: 'sequences',
  about: ['collections'],
  name: ({ name }) => name,
  words: (was, is) => ({ before: told(was), after: told(is) }),
};
