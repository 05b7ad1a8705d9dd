import { distance, type Likeness } from './phash';

/** What a clip is known by: the hashes of some of its frames, and when each is shown, s. */
export interface ClipLook {
  times: number[];
  frames: Likeness[];
}

/** Bits two frames of the same moment differ by at most, however they were coded. */
const NEAR = 8;
/** s; frames are not taken at the very same moments. */
const SLACK = 0.75;
/** So many frames that agree are no chance, where there are so many. */
const LEAST = 3;
/** Part of the frames both clips show that must agree. */
const PART = 0.5;

/** Quarters of the hashes, each with its place: clips that share none are not alike. Whole numbers below 2 ** 18. */
export const bandsOf = ({ frames }: ClipLook): number[] => [
  ...new Set(
    frames.flatMap(([high, low]) =>
      [high >>> 16, high & 0xffff, low >>> 16, low & 0xffff].map(
        (quarter, at) => at * 0x10000 + quarter,
      ),
    ),
  ),
];

const within = (times: readonly number[], from: number, to: number): number =>
  times.filter((time) => time >= from - SLACK && time <= to + SLACK).length;

/**
 * Whether two clips show the same, whole or cut: frames that look alike must lie apart by the same time.
 * @returns how many frames agree and how much later, s, they come in the second; null where they are others
 */
export function likeClips(a: ClipLook, b: ClipLook): { matched: number; offset: number } | null {
  /** Frames of the first that agree at an offset, by steps of the slack. */
  const votes = new Map<number, Set<number>>();
  a.frames.forEach((frame, i) =>
    b.frames.forEach((other, j) => {
      if (distance(frame, other) > NEAR) return;
      const step = Math.floor((b.times[j]! - a.times[i]!) / SLACK);
      // An offset at the edge of two steps has a part of its votes in each.
      for (const at of [step, step + 1]) votes.set(at, (votes.get(at) ?? new Set()).add(i));
    }),
  );
  let best: { matched: number; offset: number } | null = null;
  for (const [step, { size: matched }] of votes) {
    if (best && matched <= best.matched) continue;
    const offset = step * SLACK;
    const shared = Math.min(
      within(a.times, b.times[0]! - offset, b.times.at(-1)! - offset),
      within(b.times, a.times[0]! + offset, a.times.at(-1)! + offset),
    );
    const least = Math.min(LEAST, a.frames.length, b.frames.length);
    if (matched >= Math.max(least, shared * PART)) best = { matched, offset };
  }
  return best;
}
