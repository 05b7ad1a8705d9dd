import { fieldOf, lacksWords } from '#core/fields/registry';
import { enumWords, ratedWords, unitWords } from '#core/query/words';
import { shownDate } from '#core/text/dateWords';

const LOCALE = 'en-GB';

/** Heading of a day: `Saturday 12 September 2026`. */
export function dayHeading(key: string | null): string {
  if (key === null) return '';
  if (key === '') return 'Undated';
  if (!/^\d{4}-\d\d-\d\d$/.test(key)) return shownDate(key);
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

/** Heading of a group of the wall, by the field it is parted by. */
export function headingOf(
  key: string | null,
  value: string,
  label: string | undefined,
  stages: readonly { id: string; name: string }[],
): string {
  const field = key === null ? undefined : fieldOf(key);
  if (!field) return value;
  if (field.type === 'date') return dayHeading(value);
  if (value === '') return lacksWords(field);
  if (key === 'rating') return ratedWords(Number(value), Number(value));
  if (key === 'stage') return stages.find(({ id }) => id === value)?.name ?? label ?? value;
  if (field.type === 'enum') return enumWords(field, value);
  return `${label ?? value}${field.type === 'number' ? unitWords(field) : ''}`;
}
