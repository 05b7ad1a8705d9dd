import type { Film } from './film';
import { frameAt } from './frames';
import { LAST_FRAME, type Stretch } from './span';

/** What spans can be proposed from. */
export const GROUNDS = ['scenes', 'heard', 'loud', 'black', 'chapters', 'subtitles'] as const;
export type Ground = (typeof GROUNDS)[number];

/** How a proposal is made. */
export interface Wish {
  ground: Ground;
  /** dB below full scale: what is heard, or loud, is louder. */
  level: number;
  /** Seconds: shorter ones are left out. */
  least: number;
}
export const WISHES: Record<Ground, Omit<Wish, 'ground'>> = {
  scenes: { level: 0, least: 0.5 },
  heard: { level: 50, least: 0.5 },
  loud: { level: 20, least: 0.5 },
  black: { level: 0, least: 0.5 },
  chapters: { level: 0, least: 0 },
  subtitles: { level: 0, least: 0 },
};
/** A pause shorter than this parts nothing, seconds. */
const PAUSE = 0.4;

/** A span that could be kept. */
export interface Proposal extends Stretch {
  title: string;
}

type Times = readonly (readonly [from: number, to: number])[];

/** What lies between some stretches of a length. */
function between(parts: Times, duration: number): Times {
  const found: [number, number][] = [];
  let at = 0;
  for (const [from, to] of parts) {
    if (from > at) found.push([at, from]);
    at = Math.max(at, to);
  }
  if (at < duration) found.push([at, duration]);
  return found;
}

/** Stretches louder than a level; pauses too short to part them lie within. */
function louder({ step, below }: { step: number; below: Uint8Array }, level: number): Times {
  const found: [number, number][] = [];
  below.forEach((own, at) => {
    if (own >= level) return;
    const [from, to] = [at * step, (at + 1) * step];
    const last = found.at(-1);
    if (last && from - last[1] <= PAUSE) last[1] = to;
    else found.push([from, to]);
  });
  return found;
}

/** Bytes of base64, in the browser as on the server. */
const bytesOf = (text: string): Uint8Array =>
  Uint8Array.from(atob(text), (letter) => letter.charCodeAt(0));

function timesFrom(film: Film, { ground, level }: Wish): (readonly [number, number, string])[] {
  const { duration } = film;
  const plain = (times: Times) => times.map(([from, to]) => [from, to, ''] as const);
  switch (ground) {
    case 'scenes':
      return plain(
        film.scenes.length === 0
          ? []
          : [0, ...film.scenes].map((from, at) => [from, film.scenes[at] ?? duration] as const),
      );
    case 'heard':
    case 'loud':
      return film.levels
        ? plain(louder({ step: film.levels.step, below: bytesOf(film.levels.below) }, level))
        : [];
    case 'black':
      return film.black.length === 0 ? [] : plain(between(film.black, duration));
    case 'chapters':
    case 'subtitles':
      return film[ground].map(({ from, to, text }) => [from, to, text] as const);
  }
}

/**
 * Spans that could be kept of a clip, in its frames.
 * @param times when its frames are shown, seconds from the beginning; null for sounds
 * @param count frames of the clip
 */
export function proposals(
  film: Film,
  wish: Wish,
  times: Float64Array | null,
  { rate, count = LAST_FRAME }: { rate: number; count?: number },
): Proposal[] {
  // A hair later, so that a cut told at a frame's own time is that frame.
  const frameOf = (seconds: number): number =>
    times ? frameAt(times, seconds + 0.0005) : Math.round(seconds * rate);
  return timesFrom(film, wish).flatMap(([begins, ends, title]) => {
    const last = times?.at(-1) ?? Infinity;
    const from = Math.min(frameOf(begins), count - 1);
    const to = ends > last ? count : Math.min(frameOf(ends), count);
    const isLong = to > from && ends - begins >= wish.least - 1e-6;
    return isLong ? [{ from, to, title }] : [];
  });
}

/** What a clip can be proposed spans from. */
export const groundsOf = (film: Film): Ground[] =>
  GROUNDS.filter(
    (ground) =>
      ({
        scenes: film.scenes.length > 0,
        heard: film.levels !== null,
        loud: film.levels !== null,
        black: film.black.length > 0,
        chapters: film.chapters.length > 0,
        subtitles: film.subtitles.length > 0,
      })[ground],
  );
