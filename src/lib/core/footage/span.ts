import { addFrames, formatTimecode, parseTimecode } from './timecode';

/** A stretch of a clip in its frames: from the first to before the last, so that it is as long as `to - from`. */
export interface Stretch {
  from: number;
  to: number;
}

/** More spans and markers than anybody keeps of one clip. */
export const MOST_SPANS = 5000;
/** Frames of a day at the fastest rate that is counted: nothing lies further. */
export const LAST_FRAME = 24 * 3600 * 120;
/** What a sound without pictures is counted in, a second. */
export const SOUND_RATE = 100;

/** Frames a second a clip is counted in. @param rate frames per second; undefined: none are known */
export const countedAt = (rate: number | undefined): number =>
  rate && rate > 0 ? rate : SOUND_RATE;

/**
 * The stretch between two frames that were set as in and out, in whichever order; both are part of it.
 * @param count frames of the clip, where they are known
 */
export function stretchOf(first: number, last: number, count = LAST_FRAME): Stretch {
  const within = (frame: number): number => Math.min(Math.max(Math.round(frame), 0), count - 1);
  const [from, until] = [within(Math.min(first, last)), within(Math.max(first, last))];
  return { from, to: until + 1 };
}

/** Moved by some frames as a whole, as far as the clip goes. */
export function moved({ from, to }: Stretch, by: number, count = LAST_FRAME): Stretch {
  const most = Math.max(0, count - (to - from));
  const begins = Math.min(Math.max(from + by, 0), most);
  return { from: begins, to: begins + to - from };
}

/** One end set anew; what would turn round keeps one frame. */
export function trimmed(
  stretch: Stretch,
  end: 'from' | 'to',
  frame: number,
  count = LAST_FRAME,
): Stretch {
  const { from, to } = stretch;
  return end === 'from'
    ? { from: Math.min(Math.max(frame, 0), to - 1), to }
    : { from, to: Math.max(Math.min(frame, count), from + 1) };
}

/** Lanes in which stretches lie beside each other where they overlap: for each the number of its lane, from 0. */
export function lanesOf(stretches: readonly Stretch[]): number[] {
  const order = stretches
    .map((_, at) => at)
    .sort((a, b) => stretches[a]!.from - stretches[b]!.from);
  const ends: number[] = [];
  const lanes = new Array<number>(stretches.length).fill(0);
  for (const at of order) {
    const { from, to } = stretches[at]!;
    const free = ends.findIndex((end) => end <= from);
    const lane = free < 0 ? ends.length : free;
    ends[lane] = to;
    lanes[at] = lane;
  }
  return lanes;
}

/** How a clip counts: its frames a second, and the timecode its first frame has, if any. */
export interface Counting {
  rate: number;
  start: string | null;
}

/** What a frame is called: by timecode where there is one, else by its time. */
export function frameWords({ rate, start }: Counting, frame: number): string {
  const begins = start === null ? null : parseTimecode(start, rate);
  if (begins) return formatTimecode(addFrames(begins, frame));
  const seconds = frame / rate;
  const whole = Math.floor(seconds + 1e-9);
  const rest = frame - Math.ceil(whole * rate - 1e-9);
  const minutes = String(Math.floor(whole / 60)).padStart(2, '0');
  return `${minutes}:${String(whole % 60).padStart(2, '0')} +${rest}`;
}

/** How long some frames are: “12 s 8 f”. */
export function lengthWords(frames: number, rate: number): string {
  const seconds = Math.floor(frames / rate + 1e-9);
  const rest = Math.round(frames - seconds * rate);
  if (seconds === 0) return `${frames} f`;
  const told = seconds < 60 ? `${seconds} s` : `${Math.floor(seconds / 60)} min ${seconds % 60} s`;
  return rest > 0 ? `${told} ${rest} f` : told;
}
