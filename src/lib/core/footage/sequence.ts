import type { Stretch } from './span';

/** A stretch of a clip in a rough sequence, by the clip's own frames. */
export interface CutPiece extends Stretch {
  id: string;
  /** The span or clip it was taken from. */
  item: string;
}
/** A still that stands, or with no item a gap: nothing is shown. */
export interface HeldPiece {
  id: string;
  item: string | null;
  seconds: number;
}
export type Piece = CutPiece | HeldPiece;
export const isCut = (piece: Piece): piece is CutPiece => 'from' in piece;

/** Nobody orders more in a rough sequence. */
export const MOST_PIECES = 500;
/** A still or a gap stands no longer, seconds. */
export const LONGEST_HELD = 3600;

/** Frames of a sequence that a piece takes; one at least. @param rate frames a second of its clip @param own those of the sequence */
export const lengthOf = (piece: Piece, rate: number, own: number): number =>
  Math.max(1, Math.round((isCut(piece) ? (piece.to - piece.from) / rate : piece.seconds) * own));

/** Frames of a sequence at which pieces begin, one after the other, and its whole length behind them. */
export function startsOf(lengths: readonly number[]): number[] {
  const starts = [0];
  for (const length of lengths) starts.push(starts.at(-1)! + length);
  return starts;
}

/** The piece that is seen at a frame of a sequence, and how far into it, frames of the sequence. Past the end: the last one's last. */
export function placeAt(starts: readonly number[], frame: number): { at: number; into: number } {
  const count = starts.length - 1;
  if (count < 1) return { at: 0, into: 0 };
  const wished = Math.min(Math.max(frame, 0), starts[count]! - 1);
  let low = 0;
  let high = count - 1;
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (starts[middle]! <= wished) low = middle;
    else high = middle - 1;
  }
  return { at: low, into: wished - starts[low]! };
}

/** One piece put elsewhere. */
export function movedPiece<T>(pieces: readonly T[], from: number, to: number): T[] {
  const rest = pieces.filter((_, at) => at !== from);
  const own = pieces[from];
  if (own === undefined) return [...pieces];
  rest.splice(Math.min(Math.max(to, 0), rest.length), 0, own);
  return rest;
}

/** One end of a cut set so many frames later; what would turn round keeps one frame. @param count frames of the clip */
export function trimmedPiece(
  piece: CutPiece,
  end: 'from' | 'to',
  by: number,
  count: number,
): CutPiece {
  return end === 'from'
    ? { ...piece, from: Math.min(Math.max(piece.from + by, 0), piece.to - 1) }
    : { ...piece, to: Math.max(Math.min(piece.to + by, count), piece.from + 1) };
}

/** What is known of the item a piece is of, as far as it matters for how pieces fit. */
export interface Fitting {
  name: string;
  /** Frames a second; null of stills and gaps. */
  rate: number | null;
  /** Width ÷ height; null where there is no picture. */
  aspect: number | null;
  /** The file cannot be played now, and why. */
  missing: string | null;
  /** It ends before the piece does, by so many frames. */
  beyond: number;
}
const SAME_ASPECT = 0.02;
const rateWords = (rate: number): string => String(Math.round(rate * 1000) / 1000);

/** What most of some values are; the first of those that are as many. */
function commonest(values: readonly number[]): number | null {
  const counts = new Map<number, number>();
  for (const value of values) counts.set(value, (counts.get(value) ?? 0) + 1);
  return (
    [...counts].reduce<[number, number] | null>(
      (best, one) => (best && best[1] >= one[1] ? best : one),
      null,
    )?.[0] ?? null
  );
}

/** What one should know of a sequence before it is handed on, each in a sentence. @param own its rate */
export function thingsToKnow(pieces: readonly Fitting[], own: number): string[] {
  const found: string[] = [];
  const told = new Set<string>();
  const say = (name: string, what: string): void => {
    const sentence = `“${name}” ${what}`;
    if (!told.has(sentence)) found.push(sentence);
    told.add(sentence);
  };
  const aspects = pieces.flatMap(({ aspect }) =>
    aspect === null ? [] : Math.round(aspect * 100) / 100,
  );
  const usual = commonest(aspects);
  for (const { name, rate, aspect, missing, beyond } of pieces) {
    if (missing) say(name, missing);
    if (beyond > 0) say(name, `ends ${beyond} frames before this piece does`);
    if (rate !== null && Math.abs(rate - own) > 0.0005)
      say(name, `is ${rateWords(rate)} fps, the sequence ${rateWords(own)}`);
    if (aspect !== null && usual !== null && Math.abs(aspect - usual) > SAME_ASPECT)
      say(name, 'is of another proportion than most');
  }
  return found;
}

/** The rate most clips of a sequence have; 25 where none has one. */
export const usualRate = (rates: readonly number[]): number => commonest(rates) ?? 25;
