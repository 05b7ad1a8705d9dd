import edtf from 'edtf';
import { edtfFromWords } from '../text/dateWords';
import type { WallClock } from '../text/ldml';

/**
 * Time taken: an interval with its own precision. `from` and `to` are wall-clock times
 * (`2026-09-12T19:42:00.000`, inclusive), `edtf` says the same in ISO 8601-2 text, `offset` is minutes east
 * of UTC or null where nobody knows. A year alone stays a year: nobody invents a January 1st.
 */
export interface Taken {
  edtf: string;
  from: string;
  to: string;
  offset: number | null;
}

const pad = (value: number, width = 2): string => String(value).padStart(width, '0');

/** `2026-09-12T19:42:07.500` */
export function formatWallClock(time: WallClock): string {
  const date = `${pad(time.year, 4)}-${pad(time.month)}-${pad(time.day)}`;
  return `${date}T${pad(time.hour)}:${pad(time.minute)}:${pad(time.second)}.${pad(time.millisecond, 3)}`;
}

/** Parse what {@link formatWallClock} writes; also with a space, without milliseconds or seconds. */
export function parseWallClock(text: string): WallClock | null {
  const match = /^(\d{4})-(\d\d)-(\d\d)[T ](\d\d):(\d\d)(?::(\d\d)(?:\.(\d{1,9}))?)?$/.exec(text);
  if (!match) return null;
  const part = (at: number): number => Number(match[at] ?? 0);
  const time: WallClock = {
    year: part(1),
    month: part(2),
    day: part(3),
    hour: part(4),
    minute: part(5),
    second: part(6),
    millisecond: Number((match[7] ?? '').padEnd(3, '0').slice(0, 3)),
  };
  return isReal(time) ? time : null;
}

function isReal(time: WallClock): boolean {
  const date = new Date(Date.UTC(time.year, time.month - 1, time.day));
  const sameDay = date.getUTCMonth() === time.month - 1 && date.getUTCDate() === time.day;
  return time.year > 0 && sameDay && time.hour < 24 && time.minute < 60 && time.second < 60;
}

/** `+01:00` from minutes east of UTC. */
export function formatOffset(minutes: number): string {
  const size = Math.abs(minutes);
  return `${minutes < 0 ? '-' : '+'}${pad(Math.floor(size / 60))}:${pad(size % 60)}`;
}

/**
 * Minutes east of UTC from `+01:00` or `Z` (ISO 8601-1, 4.3.13: less than a day, whatever zones are in use); null for
 * anything else.
 */
export function parseOffset(text: string): number | null {
  if (text === 'Z') return 0;
  const match = /^([+-])([01]\d|2[0-3]):?([0-5]\d)$/.exec(text.trim());
  if (!match) return null;
  const minutes = Number(match[2]) * 60 + Number(match[3]);
  return match[1] === '-' && minutes > 0 ? -minutes : minutes;
}

/** An exact moment on the camera's clock. */
export function takenAt(time: WallClock, offset: number | null = null): Taken {
  const text = formatWallClock(time);
  const whole = text.slice(0, 19);
  return {
    edtf: offset === null ? whole : whole + formatOffset(offset),
    from: text,
    to: text,
    offset,
  };
}

/**
 * EXIF dates: `2026:09:12 19:42:07` with sub-seconds and offset in fields of their own (Exif 3.0, 4.6.5).
 * Blank, zeroed and impossible dates are unknown: null.
 */
export function takenFromExif(date: string, subSeconds = '', offset = ''): Taken | null {
  const match =
    /^(\d{4})[:\-/.](\d\d)[:\-/.](\d\d)[ T](\d\d):(\d\d)(?::(\d\d))?(?:\.(\d+))?\s*([+-]\d\d:?\d\d|Z)?/.exec(
      date.trim(),
    );
  if (!match) return null;
  const fraction = match[7] ?? subSeconds.trim();
  const second = match[6] ?? '00';
  const time = parseWallClock(
    `${match[1]}-${match[2]}-${match[3]}T${match[4]}:${match[5]}:${second}.${/^\d+$/.test(fraction) ? fraction : '0'}`,
  );
  return time ? takenAt(time, parseOffset(match[8] ?? offset)) : null;
}

/**
 * What a person types: words (`about 1974`), EDTF (`2026`, `2026-09`, `2026-09~`, `2026-09-12/2026-09-14`) or a moment
 * (`2026-09-12 19:42`, with offset if wished).
 * @returns null where the text is no date
 */
export function takenFromText(text: string): Taken | null {
  if (text.length > LONGEST) return null;
  const moment = /^(.+?[T ]\d\d:\d\d(?::\d\d(?:\.\d+)?)?)\s*(Z|[+-]\d\d:?\d\d)?$/.exec(text.trim());
  if (moment) {
    const time = parseWallClock(moment[1]!);
    const offset = moment[2] ? parseOffset(moment[2]) : null;
    // A zone that is none is refused: nobody meant the same time somewhere.
    return time && !(moment[2] && offset === null) ? takenAt(time, offset) : null;
  }
  return takenFromEdtf(text.trim()) ?? takenFromEdtf(edtfFromWords(text) ?? '');
}

/**
 * Seasons (21 spring to 24 winter) by their months, as north of the equator; winter ends in the next year. The package
 * takes them for quarters of the year.
 */
function withoutSeasons(text: string): string {
  const months = (side: string): [from: string, to: string] => {
    const found = /^(\d{4})-2([1-4])[~?%]?$/.exec(side);
    if (!found) return [side, side];
    const [year, season] = [Number(found[1]), Number(found[2])];
    const last = season * 3 + 2;
    const end = last > 12 ? [year + 1, last - 12] : [year, last];
    return [`${found[1]}-${pad(season * 3)}`, `${pad(end[0]!, 4)}-${pad(end[1]!)}`];
  };
  const [from = '', to = from] = text.split('/');
  const [first, last] = [months(from)[0], months(to)[1]];
  return first === last && !text.includes('/') ? text : `${first}/${last}`;
}

/** More than any date says; the parser's time grows with the square of a text. */
const LONGEST = 200;

/** Years 1 to 9999: what databases, files and people count by. */
const isWithin = (wallClock: string): boolean =>
  /^\d{4}-/.test(wallClock) && !wallClock.startsWith('0000');

/** Whether every day that is named is one; the package takes the 29th of February for the 1st of March. */
const namesDays = (text: string): boolean =>
  [...text.matchAll(/(?<!\d)(\d{4})-(\d\d)-(\d\d)/g)].every(
    ([day]) => parseWallClock(`${day}T00:00`) !== null,
  );

/** One of several dates, or all of them (ISO 8601-2, 4.3): from the earliest to the latest. */
function takenFromSet(text: string, members: string): Taken | null {
  const all = members
    .split(',')
    .flatMap((member) => member.split('..'))
    .map((member) => takenFromEdtf(member.trim()));
  const known = all.filter((one) => one !== null);
  if (known.length === 0 || known.length < all.length) return null;
  const from = known.map((one) => one.from).sort()[0]!;
  const to = known
    .map((one) => one.to)
    .sort()
    .at(-1)!;
  return { edtf: text, from, to, offset: null };
}

/** @returns null where the text is no EDTF, or has no ends */
function takenFromEdtf(text: string): Taken | null {
  const members = /^(?:\[(.*)\]|\{(.*)\})$/.exec(text);
  if (members) return takenFromSet(text, members[1] ?? members[2] ?? '');
  // A bare number of five digits is no year, whatever the package makes of it.
  // What is told by significant digits (1950S2) it takes for the very year.
  if (/^-?\d{5,}$|S\d/.test(text) || !namesDays(text)) return null;
  try {
    const date = edtf(withoutSeasons(text));
    if (!Number.isFinite(date.min) || !Number.isFinite(date.max)) return null;
    const wall = (milliseconds: number): string =>
      new Date(milliseconds).toISOString().slice(0, 23);
    const [from, to] = [wall(date.min), wall(date.max)];
    if (!isWithin(from) || !isWithin(to) || from > to) return null;
    return { edtf: text, from, to, offset: null };
  } catch {
    return null;
  }
}

/** How much of the date is known. */
export function precisionOf(taken: Taken): 'moment' | 'day' | 'month' | 'year' | 'span' {
  if (/T\d\d:\d\d/.test(taken.edtf)) return 'moment';
  if (/^\d{4}-\d\d-\d\d[~?%]?$/.test(taken.edtf)) return 'day';
  if (/^\d{4}-[01]\d[~?%]?$/.test(taken.edtf)) return 'month';
  return /^\d{4}[~?%]?$/.test(taken.edtf) ? 'year' : 'span';
}

/** The moment some seconds later, on the same clock; null where only a day or less is known. */
export function shiftTaken(taken: Taken, seconds: number): Taken | null {
  if (precisionOf(taken) !== 'moment') return null;
  const at = new Date(Date.parse(`${taken.from}Z`) + seconds * 1000);
  const time = Number.isNaN(at.getTime()) ? null : parseWallClock(at.toISOString().slice(0, 23));
  return time && takenAt(time, taken.offset);
}

/** Seconds from one clock's moment to another's: what has to be added to the first. */
export const secondsBetween = (from: Pick<Taken, 'from'>, to: Pick<Taken, 'from'>): number =>
  Math.round((Date.parse(`${to.from}Z`) - Date.parse(`${from.from}Z`)) / 1000);
