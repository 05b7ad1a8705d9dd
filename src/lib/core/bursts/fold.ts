import { ALIKE, distance, type Likeness } from '../likeness/phash';

/** A photo, as far as bursts are told by it. */
export interface Frame {
  id: string;
  camera: string;
  /** ms, by the camera's clock */
  at: number;
  likeness: Likeness | null;
  /** 0 … 100 */
  sharpness: number | null;
  /** Parts lost in white and in black, 0 … 1. */
  lost: number;
  rating: number;
}

/** Photos that are nearly the same. */
export interface Burst {
  frames: string[];
  /** The one that stands for all. */
  lead: string;
  /** Why it does, for people. */
  reason: string;
}

/** ms; frames of one press of the button follow each other so. */
const PRESS = 2000;
/** Bits; what moves through a burst changes it so much, of 64. */
const MOVED = 20;
/** ms; the same picture is tried again within a minute. */
const AGAIN = 60_000;

const belongs = (before: Frame, next: Frame): boolean => {
  if (before.camera !== next.camera || !before.likeness || !next.likeness) return false;
  const pause = next.at - before.at;
  const bits = distance(before.likeness, next.likeness);
  return (pause <= PRESS && bits <= MOVED) || (pause <= AGAIN && bits <= ALIKE);
};

/** Who was chosen by hand goes first, then who is sharpest; light that is lost counts against a frame. */
const worth = ({ sharpness, lost, rating }: Frame): number =>
  (sharpness ?? 0) - lost * 100 + rating * 200;

function told(frames: readonly Frame[]): Burst {
  const [best, ...others] = [...frames].sort((a, b) => worth(b) - worth(a) || a.at - b.at) as [
    Frame,
    ...Frame[],
  ];
  const next = others[0]!;
  const reason =
    best.rating > 0 && best.rating > next.rating
      ? `has the most pips of ${frames.length}`
      : best.sharpness === null
        ? `the first of ${frames.length}`
        : (next.sharpness ?? 0) > best.sharpness
          ? `loses less light than a sharper one of ${frames.length}`
          : `the sharpest of ${frames.length}: ${best.sharpness}, the next ${next.sharpness ?? 0}`;
  return { frames: frames.map(({ id }) => id), lead: best.id, reason };
}

/**
 * Photos of one camera that follow each other closely and look nearly the same, put together; each frame is compared
 * with the one before it, so that what moves may move on.
 * @param frames in any order; those without a time are no part of any
 */
export function foldBursts(frames: readonly Frame[]): Burst[] {
  const sorted = frames
    .filter(({ at }) => Number.isFinite(at))
    .sort((a, b) => (a.camera < b.camera ? -1 : a.camera > b.camera ? 1 : a.at - b.at));
  const bursts: Burst[] = [];
  let own: Frame[] = [];
  const end = (): void => {
    if (own.length > 1) bursts.push(told(own));
    own = [];
  };
  for (const frame of sorted) {
    const last = own.at(-1);
    if (last && !belongs(last, frame)) end();
    own.push(frame);
  }
  end();
  return bursts;
}
