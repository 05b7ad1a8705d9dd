import type { Film } from './film';

/** When each frame of a clip is shown, in seconds from the first one; ascending. */
export type FrameTimes = readonly number[] | Float64Array;

/** A step further from the mean than this part of it is another step. */
const EVEN = 0.2;
/** Part of the steps that may differ where a rate is steady: the first frame of a recording often stays longer. */
const FEW = 0.05;

/** Times in the order of showing, from the first, without those that are shown at once with another. */
export function frameTimes(times: readonly number[]): Float64Array {
  const sorted = Float64Array.from(times.filter(Number.isFinite)).sort();
  const first = sorted[0] ?? 0;
  let at = 0;
  for (let from = 0; from < sorted.length; from += 1) {
    const time = sorted[from]! - first;
    if (at === 0 || time > sorted[at - 1]!) sorted[at++] = time;
  }
  return sorted.slice(0, at);
}

/** Steps that differ from the middle one. */
function oddSteps(times: FrameTimes): number {
  const steps = Float64Array.from(times.slice(1), (time, at) => time - times[at]!).sort();
  const middle = steps[steps.length >> 1] ?? 0;
  return steps.filter((step) => Math.abs(step - middle) > middle * EVEN).length;
}
/** Whether a clip's rate is steady, by and large. */
export const isSteady = (times: FrameTimes): boolean => oddSteps(times) <= times.length * FEW;
/** Whether every frame follows evenly, so that its number tells its time. */
export const isEven = (times: FrameTimes): boolean => oddSteps(times) === 0;

/** The frame that is seen at a time: the last that has come. @returns from 0 */
export function frameAt(times: FrameTimes, seconds: number): number {
  let low = 0;
  let high = times.length - 1;
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (times[middle]! <= seconds + 1e-6) low = middle;
    else high = middle - 1;
  }
  return low;
}

/** A time at which a frame is surely seen: the middle of its stay. */
export function middleOf(times: FrameTimes, frame: number): number {
  const at = Math.min(Math.max(frame, 0), times.length - 1);
  const from = times[at] ?? 0;
  const next = times[at + 1];
  const stay = next === undefined ? from - (times[at - 1] ?? from - 0.04) : next - from;
  return from + stay / 2;
}

/** When each frame is shown, seconds from the beginning. */
export const timesOf = (frames: NonNullable<Film['frames']>, first: number): Float64Array =>
  'times' in frames
    ? Float64Array.from(frames.times, (time) => first + time)
    : Float64Array.from({ length: frames.count }, (_, at) => first + at * frames.step);
