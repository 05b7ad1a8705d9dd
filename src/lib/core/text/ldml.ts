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
const word = (time: WallClock, options: Intl.DateTimeFormatOptions): string =>
  new Intl.DateTimeFormat(LOCALE, { ...options, timeZone: 'UTC' }).format(asUtc(time));

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
      if (width >= 3) return word(time, { month: width === 3 ? 'short' : 'long' });
      return pad(time.month, width);
    case 'd':
      return pad(time.day, width);
    case 'E':
      return word(time, { weekday: width >= 4 ? 'long' : 'short' });
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

/**
 * Format a wall-clock time: `yyyy-MM-dd`, `MMMM`, `'day' d`. Letters in single quotes stand for themselves.
 * @throws RangeError naming the letter, where a pattern uses a field that is not supported
 */
export function formatLdml(time: WallClock, pattern: string): string {
  return pattern.replace(/'([^']*)'|([A-Za-z])\2*/g, (found, quoted: string | undefined) => {
    if (quoted !== undefined) return quoted === '' ? "'" : quoted;
    const text = field(time, found[0]!, found.length);
    if (text === null) throw new RangeError(`“${found}” is not a date field we know`);
    return text;
  });
}
