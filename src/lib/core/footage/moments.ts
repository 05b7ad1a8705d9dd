import { baseOf, parseTimecode } from './timecode';
import type { Stretch } from './span';

/** When a clip runs, as far as it is known. */
export interface Moment {
  rate: number;
  /** Timecode of its first frame. */
  start: string | null;
  /** Wall clock when it begins, ms since 1970 as if it were UTC; null where no second is known. */
  taken: number | null;
  /** Frames; null where no length is known. */
  frames: number | null;
}

/** What tells how two clips lie to each other. */
export type Clock = 'timecode' | 'time taken';

/** Seconds since midnight that a timecode reads. */
function clockOf({ rate, start }: Moment): number | null {
  const code = start === null ? null : parseTimecode(start, rate);
  return code && code.frame / (code.drop ? rate : baseOf(rate));
}

const DAY = 24 * 3600;

/**
 * Seconds by which one clip begins before another: by their timecodes where both have one, across midnight too, else by
 * when they were taken. Null where neither tells.
 */
export function before(one: Moment, other: Moment): { seconds: number; by: Clock } | null {
  const [own, theirs] = [clockOf(one), clockOf(other)];
  if (own !== null && theirs !== null) {
    const seconds = theirs - own;
    const day = seconds > DAY / 2 ? -DAY : seconds < -DAY / 2 ? DAY : 0;
    return { seconds: seconds + day, by: 'timecode' };
  }
  if (one.taken === null || other.taken === null) return null;
  return { seconds: (other.taken - one.taken) / 1000, by: 'time taken' };
}

/** The same moment in another clip, in its frames; null where it does not run then. What hangs over its ends is left out. */
export function atOther(
  { from, to }: Stretch,
  one: Moment,
  other: Moment,
  seconds: number,
): Stretch | null {
  const frameOf = (frame: number): number => Math.round((frame / one.rate - seconds) * other.rate);
  const count = other.frames ?? Infinity;
  const stretch = { from: Math.max(0, frameOf(from)), to: Math.min(count, frameOf(to)) };
  // A frame of a slower clip may hold what lasts one of a faster.
  if (to - from === 1 && frameOf(from) >= 0 && frameOf(from) < count)
    return { from: frameOf(from), to: frameOf(from) + 1 };
  return stretch.to > stretch.from ? stretch : null;
}

/** Whether two clips run at a time together. */
export function overlap(one: Moment, other: Moment, seconds: number): boolean {
  const [own, theirs] = [(one.frames ?? 0) / one.rate, (other.frames ?? 0) / other.rate];
  return seconds < own && -seconds < theirs;
}
