import type { Mark } from '../footage/marks';
import { MARK_NAMES } from '../footage/marks';
import type { EntryKind } from './kind';

/** A stretch of a clip, or a marker in it; the entry's id is the item's. What it is called and says is its record. */
export interface SpanEntry {
  /** Id of the clip. */
  of: string;
  /** Frames of the clip, from the first to before the last. */
  from: number;
  to: number;
  /** It marks a moment: its first frame is meant. */
  isMarker: boolean;
  mark: Mark | '';
}

const told = (entry: SpanEntry | null): string => {
  if (!entry) return 'not kept';
  const { from, to, isMarker, mark } = entry;
  const where = isMarker ? `frame ${from}` : `frames ${from} to ${to - 1}`;
  return mark ? `${where}, ${MARK_NAMES[mark]}` : where;
};
export const span: EntryKind<SpanEntry> = {
  deed: 'spans',
  about: ['items'],
  fields: ['span', 'kind', 'duration'],
  name: ({ isMarker }) => (isMarker ? 'A marker' : 'A span'),
  words: (was, is) => ({ before: told(was), after: told(is) }),
  itemOf: (id) => id,
  alsoAbout: ({ of }) => [of],
  apart: true,
};
