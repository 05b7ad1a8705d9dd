import { stemOf } from '../kinds/kinds';
import { ALIKE, distance, type Likeness } from '../likeness/phash';

/** A photo, as far as bursts are told by it. */
export interface Frame {
  id: string;
  camera: string;
  /** ms, by the camera's clock */
  at: number;
  /** The name it came with: cameras count in it. */
  name: string;
  /** Upright, in px. */
  width: number | null;
  height: number | null;
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

/** The number a camera counts by: at least three digits at the end of a name, and what stands before them. */
function counterIn(name: string): { before: string; count: number } | null {
  const found = /^(.*?)(\d{3,})$/.exec(stemOf(name));
  return found && { before: found[1]!, count: Number(found[2]) };
}

/** Whether a camera took one after the other: a copy of a picture says the same time and counts no further. */
function isLater(before: Frame, next: Frame): boolean {
  if (next.at > before.at) return true;
  const [was, is] = [counterIn(before.name), counterIn(next.name)];
  return was !== null && is !== null && was.before === is.before && is.count > was.count;
}

/** Cropped, smaller and turned pictures are versions, not frames. */
const isOneSize = (one: Frame, other: Frame): boolean =>
  one.width !== null && one.width === other.width && one.height === other.height;

/** A version of the frame before stands in no other's way. */
const isCopy = (before: Frame, next: Frame): boolean =>
  before.camera === next.camera && before.at === next.at && !isLater(before, next);

const belongs = (before: Frame, next: Frame): boolean => {
  if (before.camera === '' || before.camera !== next.camera) return false;
  if (!isOneSize(before, next) || !isLater(before, next)) return false;
  if (!before.likeness || !next.likeness) return false;
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

const compare = (a: string, b: string): number => (a < b ? -1 : a > b ? 1 : 0);

/**
 * Photos of one camera that follow each other closely and look nearly the same, put together; each frame is compared
 * with the one before it, so that what moves may move on.
 * @param frames in any order; those without a time are no part of any
 */
export function foldBursts(frames: readonly Frame[]): Burst[] {
  const sorted = frames
    .filter(({ at }) => Number.isFinite(at))
    .sort(
      (a, b) =>
        compare(a.camera, b.camera) ||
        a.at - b.at ||
        (counterIn(a.name)?.count ?? 0) - (counterIn(b.name)?.count ?? 0) ||
        // What is made of a picture mostly has a longer name.
        a.name.length - b.name.length ||
        compare(a.name, b.name),
    );
  const bursts: Burst[] = [];
  let own: Frame[] = [];
  const end = (): void => {
    if (own.length > 1) bursts.push(told(own));
    own = [];
  };
  for (const frame of sorted) {
    const last = own.at(-1);
    if (last && isCopy(last, frame)) continue;
    if (last && !belongs(last, frame)) end();
    own.push(frame);
  }
  end();
  return bursts;
}
