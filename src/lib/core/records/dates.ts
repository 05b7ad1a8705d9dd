import { z } from 'zod';
import { ArchiveError } from '../errors';
import {
  formatOffset,
  parseWallClock,
  precisionOf,
  takenAt,
  takenFromText,
  type Taken,
} from './taken';

const whole = z.number().int().min(-1_000_000).max(1_000_000);
const amountSchema = z.object({
  years: whole,
  months: whole,
  days: whole,
  hours: whole,
  minutes: whole,
  seconds: whole,
});
/** What is added to a date; parts may be below nought. */
export type Amount = z.infer<typeof amountSchema>;
export const NO_TIME: Amount = { years: 0, months: 0, days: 0, hours: 0, minutes: 0, seconds: 0 };

const DAY_SECONDS = 86_400;
const MOST_OFFSET = 14 * 60;
const text = z.string().max(100);
/** Setting the dates of many items at once: each keeps what is known of it, and nothing is made up. */
export const dateWishSchema = z.discriminatedUnion('act', [
  z.object({ act: z.literal('set'), text }),
  z.object({ act: z.literal('shift'), amount: amountSchema }),
  // The offset from UTC, minutes east; the clock's reading stays, or the moment does.
  z.object({
    act: z.literal('zone'),
    offset: z.number().int().min(-MOST_OFFSET).max(MOST_OFFSET),
    keeps: z.enum(['clock', 'moment']),
  }),
  // Read from a name; an empty pattern tries the usual ones.
  z.object({ act: z.literal('read'), from: z.enum(['name', 'original', 'folder']), pattern: text }),
  // One after the other in the order given: the order is known, the time is not. So many seconds apart, or, where
  // that is not said, evenly within what is known of the day.
  z.object({
    act: z.literal('spread'),
    from: text,
    every: z.number().int().min(1).max(DAY_SECONDS).nullable(),
  }),
]);
export type DateWish = z.infer<typeof dateWishSchema>;

export interface Dated {
  id: string;
  name: string;
  original: string;
  folder: string;
  taken: Taken | null;
}

export interface DateLine {
  id: string;
  name: string;
  before: string;
  after: string;
  /** Why it stays as it is. */
  problem: string | null;
}

/** A date as records are given it. */
export const takenText = (taken: Taken | null): string => {
  if (!taken) return '';
  if (precisionOf(taken) !== 'moment') return taken.edtf;
  const clock = taken.from.replace('T', ' ').replace(/\.000$/, '');
  return taken.offset === null ? clock : clock + formatOffset(taken.offset);
};

const UNITS: Record<string, keyof Amount> = {
  y: 'years',
  mo: 'months',
  d: 'days',
  h: 'hours',
  m: 'minutes',
  s: 'seconds',
};

/** `+1h 30m`, `-2d`, `1y 2mo`; null for anything else. A sign holds until the next one. */
export function parseAmount(text: string): Amount | null {
  const parts = [...text.trim().matchAll(/([+-]?)\s*(\d{1,6})\s*(mo|[ydhms])\s*/gy)];
  if (parts.length === 0 || parts.map(([all]) => all).join('') !== text.trim()) return null;
  const amount = { ...NO_TIME };
  let sign = 1;
  for (const [, said, number, unit] of parts) {
    if (said) sign = said === '-' ? -1 : 1;
    amount[UNITS[unit!]!] += sign * Number(number);
  }
  return amount;
}

/** Seconds of an amount; months count 30 days, years 365. */
export const amountSeconds = (amount: Amount): number =>
  (amount.years * 365 + amount.months * 30 + amount.days) * DAY_SECONDS +
  amount.hours * 3600 +
  amount.minutes * 60 +
  amount.seconds;

const wallOf = (date: Date): string => date.toISOString().slice(0, 23);

/** Months first, the day held to the month's last; then what has a fixed length. */
function added(clock: string, amount: Amount): string | null {
  const from = new Date(`${clock}Z`);
  const day = from.getUTCDate();
  from.setUTCDate(1);
  from.setUTCMonth(from.getUTCMonth() + amount.months + amount.years * 12);
  const last = new Date(Date.UTC(from.getUTCFullYear(), from.getUTCMonth() + 1, 0)).getUTCDate();
  from.setUTCDate(Math.min(day, last));
  const seconds =
    amount.days * DAY_SECONDS + amount.hours * 3600 + amount.minutes * 60 + amount.seconds;
  const to = new Date(from.getTime() + seconds * 1000);
  const year = to.getUTCFullYear();
  return Number.isNaN(year) || year < 1 || year > 9999 ? null : wallOf(to);
}

class Refused extends Error {}
const refuse = (why: string): never => {
  throw new Refused(why);
};

const hasAny = (amount: Amount, ...keys: (keyof Amount)[]): boolean =>
  keys.some((key) => amount[key] !== 0);

/** A date as much later; what is not known of it cannot be moved. */
function shifted(taken: Taken, amount: Amount): Taken {
  const precision = precisionOf(taken);
  if (precision === 'moment') {
    const clock = added(taken.from, amount);
    const time = clock === null ? null : parseWallClock(clock);
    return time ? takenAt(time, taken.offset) : refuse('beyond the years 1 to 9999');
  }
  if (precision === 'span') return refuse('a span; set it by itself');
  if (hasAny(amount, 'hours', 'minutes', 'seconds')) return refuse('its time of day is not known');
  if (precision !== 'day' && amount.days !== 0) return refuse('its day is not known');
  if (precision === 'year' && amount.months !== 0) return refuse('its month is not known');
  const clock = added(taken.from, amount) ?? refuse('beyond the years 1 to 9999');
  const length = { year: 4, month: 7, day: 10 }[precision];
  // What is about or uncertain stays so.
  const mark = /[~?%]$/.exec(taken.edtf)?.[0] ?? '';
  return takenFromText(clock.slice(0, length) + mark) ?? refuse('no date');
}

function zoned(taken: Taken, offset: number, keeps: 'clock' | 'moment'): Taken {
  if (precisionOf(taken) !== 'moment') return refuse('its time of day is not known');
  if (keeps === 'clock') return takenAt(parseWallClock(taken.from)!, offset);
  if (taken.offset === null) return refuse('its time zone is not known');
  const clock = added(taken.from, { ...NO_TIME, minutes: offset - taken.offset });
  return clock ? takenAt(parseWallClock(clock)!, offset) : refuse('beyond the years 1 to 9999');
}

/** Patterns tried where none is given, the most telling first (LDML fields). */
const USUAL = [
  'yyyyMMdd_HHmmss',
  'yyyyMMdd-HHmmss',
  'yyyyMMddHHmmss',
  'yyyy-MM-dd HH.mm.ss',
  'yyyy-MM-dd_HH-mm-ss',
  'yyyy-MM-ddTHHmmss',
  'yyyy-MM-dd',
  'yyyy_MM_dd',
  'yyyy.MM.dd',
  'dd.MM.yyyy',
  'yyyyMMdd',
  'yyyy-MM',
];
const FIELDS: Record<string, string> = {
  yyyy: '(?<year>\\d{4})',
  MM: '(?<month>\\d\\d)',
  dd: '(?<day>\\d\\d)',
  HH: '(?<hour>\\d\\d)',
  mm: '(?<minute>\\d\\d)',
  ss: '(?<second>\\d\\d)',
};

/** @throws ArchiveError value-refused for a pattern without a year, or one that tells something twice */
function patternOf(pattern: string): RegExp {
  const seen = new Set<string>();
  const text = pattern.replace(/yyyy|MM|dd|HH|mm|ss|[^]/g, (part) => {
    const field = FIELDS[part];
    if (!field) return part.replace(/[\\^$.*+?()[\]{}|/-]/g, '\\$&');
    if (seen.has(part))
      throw new ArchiveError('value-refused', `“${pattern}” tells ${part} twice.`);
    seen.add(part);
    return field;
  });
  if (
    !seen.has('yyyy') ||
    (seen.has('dd') && !seen.has('MM')) ||
    (seen.has('HH') && !seen.has('dd'))
  )
    throw new ArchiveError(
      'value-refused',
      `“${pattern}” needs a year (yyyy), a month (MM) for a day (dd), a day for an hour (HH).`,
    );
  return new RegExp(`(?<!\\d)${text}(?!\\d)`);
}

/** The date a text tells by a pattern; as exact as the pattern is, never more. */
function readBy(text: string, pattern: RegExp): Taken | null {
  const found = pattern.exec(text)?.groups;
  if (!found) return null;
  const { year, month, day, hour, minute = '00', second = '00' } = found;
  const date = [year, month, day].filter((part) => part !== undefined).join('-');
  return takenFromText(hour === undefined ? date : `${date} ${hour}:${minute}:${second}`);
}

/**
 * The place of one among so many, within a date that says less than a moment: of each its own where none is named. Days
 * of one length each, so that none comes before another; to the second.
 */
function evenly(named: string, { taken }: Dated, at: number, count: number): Taken {
  const within = named.trim() === '' ? taken : takenFromText(named);
  if (!within)
    return named.trim() === ''
      ? refuse('it has no date')
      : refuse(`“${named}” is no date to spread them in`);
  if (precisionOf(within) === 'moment') return refuse('its time is known already');
  const [from, to] = [Date.parse(`${within.from}Z`), Date.parse(`${within.to}Z`) + 1];
  const moment = from + Math.floor(((at + 0.5) * (to - from)) / count / 1000) * 1000;
  return takenAt(parseWallClock(wallOf(new Date(moment)))!, within.offset);
}

/** Whatever one reads: known once for all items. */
function reader(wish: DateWish, count: number): (one: Dated, at: number) => Taken {
  switch (wish.act) {
    case 'set': {
      const taken = takenFromText(wish.text);
      if (!taken) throw new ArchiveError('value-refused', `“${wish.text}” is no date.`);
      return () => taken;
    }
    case 'spread': {
      const { every } = wish;
      if (every === null) return (one, at) => evenly(wish.from, one, at, count);
      const first = takenFromText(wish.from);
      if (!first || precisionOf(first) !== 'moment')
        throw new ArchiveError('value-refused', 'Say when the first was taken: day and time.');
      return (_, at) => shifted(first, { ...NO_TIME, seconds: at * every });
    }
    case 'shift':
      return ({ taken }) => shifted(taken ?? refuse('it has no date'), wish.amount);
    case 'zone':
      return ({ taken }) => zoned(taken ?? refuse('it has no date'), wish.offset, wish.keeps);
    case 'read': {
      const patterns = (wish.pattern ? [wish.pattern] : USUAL).map(patternOf);
      return (one) => {
        for (const pattern of patterns) {
          const taken = readBy(one[wish.from], pattern);
          if (taken) return taken;
        }
        return refuse(`no date in “${one[wish.from]}”`);
      };
    }
  }
}

/**
 * What dates would become, in the order given; nothing is changed.
 * @throws ArchiveError value-refused where the wish itself makes no sense
 */
export function datesBy(wish: DateWish, items: readonly Dated[]): DateLine[] {
  const read = reader(wish, items.length);
  return items.map((one, at) => {
    const before = takenText(one.taken);
    const line = { id: one.id, name: one.name, before };
    try {
      return { ...line, after: takenText(read(one, at)), problem: null };
    } catch (error) {
      if (error instanceof Refused) return { ...line, after: before, problem: error.message };
      throw error;
    }
  });
}
