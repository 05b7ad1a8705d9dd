/** The part of a clip that is drawn, in frames: from one edge to the other, parts of frames at the edges. */
export interface View {
  from: number;
  to: number;
}

/** Fewer frames than these are never drawn over the whole width. */
export const FEWEST_FRAMES = 8;

export const whole = (count: number): View => ({ from: 0, to: Math.max(1, count) });

function within(from: number, wide: number, count: number): View {
  const begins = Math.min(Math.max(from, 0), Math.max(0, count - wide));
  return { from: begins, to: begins + wide };
}

/** Nearer or further, where a frame stays under the hand. @param factor above 1: nearer */
export function zoomed({ from, to }: View, at: number, factor: number, count: number): View {
  const wide = Math.min(Math.max((to - from) / factor, Math.min(FEWEST_FRAMES, count)), count);
  const part = (at - from) / (to - from);
  return within(at - part * wide, wide, count);
}

/** Moved by a part of its width. */
export const panned = ({ from, to }: View, part: number, count: number): View =>
  within(from + (to - from) * part, to - from, count);

/** The same part, moved as little as it takes to show a frame. */
export function showing(view: View, frame: number, count: number): View {
  const wide = view.to - view.from;
  if (frame >= view.from && frame < view.to) return view;
  return within(frame < view.from ? frame - wide * 0.1 : frame - wide * 0.9, wide, count);
}

/**
 * Part of a clip's length at which a frame is shown, 0 … 1.
 * @param times when its frames are shown, seconds; null where they follow evenly @param duration seconds
 */
export function partAt(
  frame: number,
  clip: { times: ArrayLike<number> | null; duration: number; rate: number; count: number },
): number {
  const { times, duration, rate, count } = clip;
  if (!times || duration <= 0) return Math.min(1, frame / count);
  const low = Math.min(Math.max(Math.floor(frame), 0), times.length - 1);
  return Math.min(1, (times[low]! + (frame - low) / rate) / duration);
}

/** The nearest of some edges within reach, else the frame itself. */
export function snapped(frame: number, edges: readonly number[], reach: number): number {
  let best = frame;
  let least = reach;
  for (const edge of edges) {
    const away = Math.abs(edge - frame);
    if (away <= least) [best, least] = [edge, away];
  }
  return best;
}

/** Steps of a ruler, frames: about as many as fit, in whole seconds where there is room for seconds only. */
export function rulerStep(frames: number, rate: number, most: number): number {
  const base = Math.max(1, Math.round(rate));
  const seconds = [1, 2, 5, 10, 15, 30, 60, 120, 300, 600, 900, 1800, 3600, 7200];
  const steps = [1, 2, 5, 10, ...seconds.map((one) => one * base)].sort((a, b) => a - b);
  return steps.find((step) => frames / step <= most) ?? steps.at(-1)!;
}
