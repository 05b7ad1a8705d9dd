import type { Kind } from '../kinds/kinds';

/** What a guest may be allowed to take away, by its long edge in px; `original` is the file itself. */
export const ROOM_SIZES = ['original', '2048'] as const;
export type RoomSize = (typeof ROOM_SIZES)[number];

/** What leaves a room: bytes to be saved, or pictures and sound to be seen and heard. */
export type Leaving = 'original' | 'picture-2048' | 'picture-1200' | 'picture-small' | 'proxy';

/** Kinds that play: their picture is a poster, and what plays is a proxy. */
const PLAYS: ReadonlySet<Kind> = new Set<Kind>(['footage', 'sound']);

/**
 * Whether something of an item leaves a room that grants these sizes: the one place where that is decided.
 * Without any grant a guest sees pictures of at most 1200 px and plays proxies. 2048 px is a size that must be
 * granted; it makes no size of clips and sounds, whose only size to take away is the original.
 */
export function leaves(granted: readonly RoomSize[], kind: Kind, wish: Leaving): boolean {
  const whole = granted.includes('original');
  switch (wish) {
    case 'original':
      return whole;
    case 'picture-2048':
      return whole || (granted.includes('2048') && !PLAYS.has(kind));
    case 'proxy':
      return PLAYS.has(kind);
    case 'picture-1200':
    case 'picture-small':
      return true;
  }
}

/** What a guest may save of an item, largest first. */
export const savable = (granted: readonly RoomSize[], kind: Kind): RoomSize[] =>
  ROOM_SIZES.filter((size) =>
    size === 'original'
      ? leaves(granted, kind, 'original')
      : granted.includes('2048') && leaves(granted, kind, 'picture-2048') && !PLAYS.has(kind),
  );
