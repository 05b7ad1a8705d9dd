import { positionAt, type Position } from '../geo/position';

/** A track as a receiver recorded it: stretches without loss of reception, points in the order of their times. */
export interface TrackPoint extends Position {
  /** ms since 1970, UTC */
  at: number;
}
export type Track = readonly (readonly TrackPoint[])[];

/** How far a track is trusted, s. */
export interface Limits {
  /** Between two points of a stretch that lie further apart nothing is interpolated. */
  gap: number;
  /** Before the first and after the last point of a stretch its end holds for so long. */
  beyond: number;
}
export const USUAL_LIMITS: Limits = { gap: 600, beyond: 120 };

export type TrackAnswer = { position: Position; why: null } | { position: null; why: string };

const nowhere = (why: string): TrackAnswer => ({ position: null, why });
const there = (position: Position): TrackAnswer => ({ position, why: null });

/** `42 min`, `3 h` */
function lengthWords(ms: number): string {
  const seconds = Math.round(ms / 1000);
  if (seconds < 120) return `${seconds} s`;
  const minutes = Math.round(seconds / 60);
  return minutes < 120 ? `${minutes} min` : `${Math.round(minutes / 60)} h`;
}

/** Points in between lie on the straight line, over the date line by the shorter way. */
function between(a: TrackPoint, b: TrackPoint, at: number): Position {
  const share = b.at === a.at ? 0 : (at - a.at) / (b.at - a.at);
  const turn = b.longitude - a.longitude;
  const across = turn > 180 ? turn - 360 : turn < -180 ? turn + 360 : turn;
  const longitude = a.longitude + across * share;
  const wrapped =
    longitude > 180 ? longitude - 360 : longitude < -180 ? longitude + 360 : longitude;
  return positionAt(a.latitude + (b.latitude - a.latitude) * share, wrapped)!;
}

/** Index of the last point that is not later; -1 where all are. */
function lastUpTo(points: readonly TrackPoint[], at: number): number {
  let [low, high] = [0, points.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (points[middle]!.at <= at) low = middle + 1;
    else high = middle;
  }
  return low - 1;
}

/**
 * Where a track was at a moment: between two points of one stretch, or at its end; never across a gap.
 * @param at ms since 1970, UTC
 */
export function onTrack(track: Track, at: number, { gap, beyond }: Limits): TrackAnswer {
  let nearest = Infinity;
  let end: TrackPoint | null = null;
  for (const stretch of track) {
    const index = lastUpTo(stretch, at);
    const [before, after] = [stretch[index], stretch[index + 1]];
    if (before?.at === at) return there(positionAt(before.latitude, before.longitude)!);
    if (before && after) {
      if (after.at - before.at <= gap * 1000) return there(between(before, after, at));
      return nowhere(`its track has a gap of ${lengthWords(after.at - before.at)} there`);
    }
    const close = before ?? after;
    if (close && Math.abs(close.at - at) < nearest)
      [nearest, end] = [Math.abs(close.at - at), close];
  }
  if (!end) return nowhere('the track has no points');
  if (nearest <= beyond * 1000) return there(positionAt(end.latitude, end.longitude)!);
  return nowhere(`the track is ${lengthWords(nearest)} away from it`);
}

/** A track that is kept, without its points. */
export interface KeptTrack {
  id: string;
  name: string;
  points: number;
  stretches: number;
  /** ms since 1970, UTC */
  from: number;
  to: number;
}

/** What is told of a track. */
export interface TrackFacts {
  points: number;
  stretches: number;
  from: number;
  to: number;
}
export function factsOfTrack(track: Track): TrackFacts | null {
  const ends = track.flatMap((stretch) =>
    stretch.length > 0 ? [stretch[0]!.at, stretch.at(-1)!.at] : [],
  );
  if (ends.length === 0) return null;
  return {
    points: track.reduce((sum, { length }) => sum + length, 0),
    stretches: track.length,
    from: Math.min(...ends),
    to: Math.max(...ends),
  };
}
