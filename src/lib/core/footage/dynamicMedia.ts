import type { Stretch } from './span';

/**
 * Markers of XMP Dynamic Media (XMP specification part 2, 1.2.7; ISO 16684-2): tracks of markers, each with a start, a
 * duration, a name, a comment and a type. Times are counts of frames of a rate: `250f25`, `900f30000s1001`. Properties are
 * called as ExifTool calls them.
 */
export interface XmpMarker {
  StartTime?: unknown;
  Duration?: unknown;
  Name?: unknown;
  Comment?: unknown;
  Type?: unknown;
  /** What else other programs say of it stays with it. */
  [more: string]: unknown;
}
export interface XmpTrack {
  TrackName?: unknown;
  TrackType?: unknown;
  FrameRate?: unknown;
  Markers?: XmpMarker[];
  [more: string]: unknown;
}

const isObject = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && !Array.isArray(value);
const objects = (value: unknown): Record<string, unknown>[] =>
  (Array.isArray(value) ? (value as unknown[]) : [value]).filter(isObject);

/** Tracks as ExifTool reads them, whatever else may stand there. */
export const tracksFrom = (value: unknown): XmpTrack[] =>
  objects(value).map((track) => ({ ...track, Markers: objects(track['Markers']) }));

/** A span or marker as XMP tells it. */
export interface ToldSpan extends Stretch {
  isMarker: boolean;
  title: string;
  note: string;
}

/** The track that holds what is logged here. */
export const OWN_TRACK = 'Log';
/** More than anybody keeps of one clip. */
const MOST_MARKERS = 5000;
const LONGEST_NAME = 2000;
const LONGEST_NOTE = 20_000;

/** Frames a second of `f25` or `f30000s1001`; null where it is none. */
export function rateOf(text: string): number | null {
  const [, count, base = '1'] = /^f?(\d{1,9})(?:s(\d{1,9}))?$/.exec(text.trim()) ?? [];
  const rate = Number(count) / Number(base);
  return count !== undefined && Number.isFinite(rate) && rate > 0 ? rate : null;
}

/** `f25`, `f30000s1001`: rates of television are told as they are meant. */
export function rateText(rate: number): string {
  const whole = Math.round(rate);
  if (Math.abs(rate - whole) < 1e-6) return `f${whole}`;
  const slowed = (whole * 1000) / 1001;
  if (Math.abs(rate - slowed) < 0.005) return `f${whole * 1000}s1001`;
  return `f${Math.round(rate * 1000)}s1000`;
}

const textOf = (value: unknown): string =>
  typeof value === 'string' || typeof value === 'number' ? String(value) : '';

/** How near two rates are that are the same, told with more or fewer digits. */
const SAME_RATE = 0.005;

/**
 * Frames of a clip a time stands for; counts of the clip's own rate are its frames. @param usual rate of a count that
 * names none @param rate of the clip @returns null where it is no time
 */
function framesOf(value: unknown, usual: number, rate: number): number | null {
  const [, count, named] = /^(\d{1,15})(f\d{1,9}(?:s\d{1,9})?)?$/.exec(textOf(value).trim()) ?? [];
  if (count === undefined) return null;
  const own = named === undefined ? usual : rateOf(named);
  if (own === null) return null;
  return Math.abs(own - rate) < SAME_RATE ? Number(count) : (Number(count) / own) * rate;
}

/** What a marker says of a clip that is counted in a rate; null where it says no time. */
function spanOf(marker: XmpMarker, usual: number, rate: number): ToldSpan | null {
  const begins = framesOf(marker.StartTime, usual, rate);
  if (begins === null) return null;
  const from = Math.round(begins);
  const length = Math.round(framesOf(marker.Duration, usual, rate) ?? 0);
  return {
    ...{ from, to: from + Math.max(1, length), isMarker: length < 1 },
    title: textOf(marker.Name).trim().slice(0, LONGEST_NAME),
    note: textOf(marker.Comment).trim().slice(0, LONGEST_NOTE),
  };
}
const usualOf = ({ FrameRate }: XmpTrack): number => rateOf(textOf(FrameRate)) ?? 1;

/** Everything tracks tell of a clip, in the order of its frames, what is told twice once. @param rate of the clip */
export function spansFrom(
  tracks: readonly XmpTrack[],
  rate: number,
): { spans: ToldSpan[]; passedOver: number } {
  const found = new Map<string, ToldSpan>();
  let passedOver = 0;
  for (const track of tracks)
    for (const marker of track.Markers ?? []) {
      const span = spanOf(marker, usualOf(track), rate);
      if (!span || found.size >= MOST_MARKERS) passedOver += 1;
      else found.set(keyOf(span), span);
    }
  const spans = [...found.values()].sort((a, b) => a.from - b.from || a.to - b.to);
  return { spans, passedOver };
}
/** What tells one from another: all that XMP says of it. */
export const keyOf = ({ from, to, isMarker, title, note }: ToldSpan): string =>
  JSON.stringify([from, to, isMarker, title, note]);

/**
 * Tracks that tell these spans: markers of other programs stay as they are where a span still says the same, or where they were
 * never read; one that was read and that no span says any more goes. Everything else stands in a track of our own.
 * @param told what was read or written there before, by {@link keyOf}
 */
export function tracksWith(
  tracks: readonly XmpTrack[],
  spans: readonly ToldSpan[],
  rate: number,
  told: ReadonlySet<string>,
): XmpTrack[] {
  const left = new Map(spans.map((span) => [keyOf(span), span]));
  const others = tracks
    .filter(({ TrackName }) => TrackName !== OWN_TRACK)
    .map((track): XmpTrack => {
      const Markers = (track.Markers ?? []).filter((marker) => {
        const span = spanOf(marker, usualOf(track), rate);
        // What tells no time is not ours to take away.
        return span === null || left.delete(keyOf(span)) || !told.has(keyOf(span));
      });
      return { ...track, Markers };
    })
    .filter(({ Markers }) => Markers!.length > 0);
  const own = [...left.values()].sort((a, b) => a.from - b.from || a.to - b.to);
  if (own.length === 0) return others;
  const markers = own.map(({ from, to, isMarker, title, note }): XmpMarker => ({
    StartTime: String(from),
    ...(isMarker ? {} : { Duration: String(to - from) }),
    ...(title && { Name: title }),
    ...(note && { Comment: note }),
    Type: isMarker ? 'Cue' : 'Index',
  }));
  return [
    ...others,
    { TrackName: OWN_TRACK, TrackType: 'Index', FrameRate: rateText(rate), Markers: markers },
  ];
}
