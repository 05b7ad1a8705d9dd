import { takenWords } from '#core/query/sentence';

const LOCALE = 'en-GB';

/** Heading of a day: `Saturday 12 September 2026`. */
export function dayHeading(key: string | null): string {
  if (key === null) return '';
  if (key === '') return 'Undated';
  if (!/^\d{4}-\d\d-\d\d$/.test(key)) return takenWords(key).replace(/^(in|on) /, '');
  const date = new Date(`${key}T00:00:00Z`);
  return new Intl.DateTimeFormat(LOCALE, {
    weekday: 'long',
    day: 'numeric',
    month: 'long',
    year: 'numeric',
    timeZone: 'UTC',
  })
    .format(date)
    .replace(',', '');
}

/** `18:02–20:11` of two wall clocks in either order. */
export function hours(from: string | null, to: string | null): string {
  if (!from || !to) return '';
  const [first, last] = [from.slice(11, 16), to.slice(11, 16)].sort();
  return first === last ? first! : `${first}–${last}`;
}

/** `12 Sep 2026, 19:42` of a wall clock. */
export function moment(taken: string | null): string {
  if (!taken) return '';
  const date = new Date(`${taken.slice(0, 19)}Z`);
  return new Intl.DateTimeFormat(LOCALE, {
    day: 'numeric',
    month: 'short',
    year: 'numeric',
    hour: '2-digit',
    minute: '2-digit',
    timeZone: 'UTC',
  }).format(date);
}

/** `23 Nov 2026, 09:12` of an instant, in the reader's zone. */
export function instant(at: string | Date): string {
  return new Intl.DateTimeFormat(LOCALE, {
    day: 'numeric',
    month: 'short',
    year: 'numeric',
    hour: '2-digit',
    minute: '2-digit',
  }).format(new Date(at));
}
