/**
 * Wall-clock times and their formatting by Unicode LDML date fields (UTS #35, part 4): the fields an
 * archive names files with. A wall-clock time has no zone; nothing here asks what time it is.
 */
export interface WallClock {
  year: number;
  month: number;
  day: number;
  hour: number;
  minute: number;
  second: number;
  millisecond: number;
}

const LOCALE = 'en-GB';
const pad = (value: number, width: number): string => String(value).padStart(width, '0');
const asUtc = (time: WallClock): Date => new Date(Date.UTC(time.year, time.month - 1, time.day));
const words = (options: Intl.DateTimeFormatOptions) => {
  const format = new Intl.DateTimeFormat(LOCALE, { ...options, timeZone: 'UTC' });
  return (time: WallClock): string => format.format(asUtc(time));
};
const WORDS = {
  month: { short: words({ month: 'short' }), long: words({ month: 'long' }) },
  weekday: { short: words({ weekday: 'short' }), long: words({ weekday: 'long' }) },
};

/** ISO 8601 week number. */
function week(time: WallClock): number {
  const date = asUtc(time);
  const weekday = (date.getUTCDay() + 6) % 7;
  date.setUTCDate(date.getUTCDate() - weekday + 3);
  const firstThursday = new Date(Date.UTC(date.getUTCFullYear(), 0, 4));
  return 1 + Math.round((date.getTime() - firstThursday.getTime()) / 604_800_000);
}

function field(time: WallClock, letter: string, width: number): string | null {
  switch (letter) {
    case 'y':
      return width === 2 ? pad(time.year % 100, 2) : pad(time.year, width);
    case 'M':
      if (width >= 3) return WORDS.month[width === 3 ? 'short' : 'long'](time);
      return pad(time.month, width);
    case 'd':
      return pad(time.day, width);
    case 'E':
      return WORDS.weekday[width >= 4 ? 'long' : 'short'](time);
    case 'H':
      return pad(time.hour, width);
    case 'm':
      return pad(time.minute, width);
    case 's':
      return pad(time.second, width);
    case 'S':
      return pad(time.millisecond, 3).slice(0, width).padEnd(width, '0');
    case 'w':
      return pad(week(time), width);
    default:
      return null;
  }
}

const ANY: WallClock = {
  year: 2026,
  month: 9,
  day: 12,
  hour: 19,
  minute: 42,
  second: 7,
  millisecond: 0,
};
const TOKEN = /'([^']*)'|([A-Za-z])\2*|[^'A-Za-z]+|'/g;

/**
 * What writes wall-clock times: `yyyy-MM-dd`, `MMMM`, `'day' d`. Letters in single quotes stand for themselves.
 * @throws RangeError naming the letter, where a pattern uses a field that is not supported
 */
export function ldmlFormatter(pattern: string): (time: WallClock) => string {
  const parts = [...pattern.matchAll(TOKEN)].map(([found, quoted, letter]) => {
    if (quoted !== undefined) return quoted === '' ? "'" : quoted;
    if (letter === undefined) return found;
    if (field(ANY, letter, found.length) === null)
      throw new RangeError(`“${found}” is not a date field we know`);
    return (time: WallClock): string => field(time, letter, found.length)!;
  });
  return (time) => {
    let text = '';
    for (const part of parts) text += typeof part === 'string' ? part : part(time);
    return text;
  };
}
