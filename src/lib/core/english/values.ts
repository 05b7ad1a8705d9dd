import type { Field } from '../fields/field';
import { takenFromText } from '../records/taken';
import { MONTHS } from '../text/dateWords';
import { is, LAST_UNITS, type Condition, type Node } from '../query/tree';
import { unitWords } from '../query/words';
import type { Cursor } from './cursor';
import { tokensOf } from './tokens';

/** Letters of a date, at most. */
const LONGEST_DATE = 60;

/** `from 3 to 5 MP`, `3 MP or more`, `3 or 4`. */
export function readNumber(cursor: Cursor, field: Field): Node | null {
  const unit = tokensOf(unitWords(field));
  const skipUnit = (): void => {
    if (unit.length > 0 && cursor.matches(unit)) cursor.at += unit.length;
  };
  const range = (from: number | null, to: number | null): Node => ({
    field: field.key,
    test: 'range',
    values: [from, to],
  });
  if (cursor.takes('from')) {
    const from = cursor.amount();
    skipUnit();
    const to = from !== null && cursor.takes('to') ? cursor.amount() : null;
    if (to === null) return null;
    skipUnit();
    return range(from, to);
  }
  const values: number[] = [];
  do {
    const value = cursor.amount();
    if (value === null) {
      if (values.length > 0) cursor.at -= 1;
      break;
    }
    values.push(value);
    skipUnit();
  } while (cursor.word(1) !== 'more' && cursor.word(1) !== 'else' && cursor.takes('or'));
  if (values.length === 0) return null;
  if (values.length === 1 && cursor.takes('or', 'more')) return range(values[0]!, null);
  if (values.length === 1 && cursor.takes('at', 'most')) return range(null, values[0]!);
  return is(field.key, ...values);
}

/** `within 5 km of 51.2, 1.4`, `between 51, 1 and 52, 2` */
export function readPlace(cursor: Cursor): Node | null {
  return cursor.attempt(() => {
    if (cursor.takes('between')) return readBox(cursor);
    if (!cursor.takes('within')) return null;
    const km = cursor.amount();
    if (km === null || !cursor.takes('km', 'of')) return null;
    const latitude = cursor.amount();
    if (cursor.word() === ',') cursor.at += 1;
    const longitude = latitude === null ? null : cursor.amount();
    if (latitude === null || longitude === null) return null;
    return { field: 'position', test: 'near', values: [latitude, longitude, km] };
  });
}

function readBox(cursor: Cursor): Node | null {
  const numbers: number[] = [];
  for (let at = 0; at < 4; at += 1) {
    if (at === 2 ? !cursor.takes('and') : at > 0 && !cursor.takes(',')) return null;
    const value = cursor.amount();
    if (value === null) return null;
    numbers.push(value);
  }
  return { field: 'position', test: 'box', values: numbers };
}

/** A date in words, as EDTF. Without a year it is the last there was. */
export function readDate(cursor: Cursor, today: string): string | null {
  return cursor.attempt(() => {
    const token = cursor.tokens[cursor.at];
    if (!token) return null;
    const day = /^(\d{1,2})(st|nd|rd|th)?$/.exec(cursor.word())?.[1];
    const month = (step: number): number =>
      MONTHS.findIndex((name) => name.toLowerCase() === cursor.word(step));
    const year = (step: number): string | undefined => /^\d{4}$/.exec(cursor.word(step))?.[0];
    const two = (value: number | string): string => String(value).padStart(2, '0');
    const dayFirst = day !== undefined && month(1) >= 0;
    const at = dayFirst ? 1 : 0;
    const which = month(at);
    if (which >= 0) {
      const said = year(at + 1);
      cursor.at += at + (said ? 2 : 1);
      const [thisYear, thisMonth] = today.split('-').map(Number) as [number, number];
      const meant =
        said ??
        String(which + 1 < thisMonth ? thisYear : thisYear - (which + 1 > thisMonth ? 1 : 0));
      return `${meant}-${two(which + 1)}${dayFirst ? `-${two(day)}` : ''}`;
    }
    // A word without a digit is none; the parser takes its time with each.
    if (!/\d/.test(token.text) || token.text.length > LONGEST_DATE) return null;
    if (!token.quoted && !/^\d{4}|[XY?~%]/.test(token.text)) return null;
    const edtf = takenFromText(token.text);
    if (!edtf) return null;
    cursor.at += 1;
    const clock = cursor.tokens[cursor.at];
    if (clock && /^\d\d:\d\d/.test(clock.text) && /^\d{4}-\d\d-\d\d$/.test(token.text)) {
      cursor.at += 1;
      return `${token.text} ${clock.text}`;
    }
    return token.text;
  });
}

/** When something was: `in September 2026`, `before 1998`, `in the last 3 weeks`, `each 12 September`. */
export function readTime(cursor: Cursor, field: string, today: string): Node | null {
  const make = (test: Condition['test'], ...values: Condition['values']): Node => ({
    field,
    test,
    values,
  });
  const dated = (test: Condition['test']): Node | null => {
    const date = readDate(cursor, today);
    return date === null ? null : make(test, date);
  };
  if (cursor.takes('each')) {
    const day = /^\d{1,2}$/.test(cursor.word()) ? cursor.word() : null;
    if (day) cursor.at += 1;
    const month = MONTHS.findIndex((name) => name.toLowerCase() === cursor.word());
    if (month < 0) return null;
    cursor.at += 1;
    const two = (value: number | string): string => String(value).padStart(2, '0');
    return make('each', day ? `${two(month + 1)}-${two(day)}` : two(month + 1));
  }
  if (cursor.takes('before')) return dated('before');
  if (cursor.takes('after') || cursor.takes('since')) return dated('after');
  if (cursor.takes('about') || cursor.takes('around')) return dated('overlaps');
  const last = cursor.attempt(() => {
    if (!cursor.takes('in')) cursor.takes('from');
    cursor.takes('the');
    if (cursor.takes('today')) return make('within', today);
    if (cursor.takes('yesterday')) return make('within', shiftedDay(today, -1));
    if (cursor.takes('this', 'year')) return make('within', today.slice(0, 4));
    if (cursor.takes('this', 'month')) return make('within', today.slice(0, 7));
    if (!cursor.takes('last')) return null;
    const count = cursor.amount();
    const unit = LAST_UNITS.find((one) => one === cursor.word() || one === `${cursor.word()}s`);
    if (unit) {
      cursor.at += 1;
      if (count !== null) return make('last', count, unit);
      if (unit === 'years') return make('within', String(Number(today.slice(0, 4)) - 1));
      if (unit === 'months')
        return make('within', shiftedDay(`${today.slice(0, 7)}-01`, -1).slice(0, 7));
      return make('last', 1, unit);
    }
    // “last September” is the last one that is over.
    return count === null ? lastMonth(cursor, make, today) : null;
  });
  if (last) return last;
  if (cursor.takes('from')) {
    const from = readDate(cursor, today);
    if (from === null) return null;
    if (!cursor.takes('to')) return make('within', from);
    const to = readDate(cursor, today);
    return to === null ? null : make('within', `${from}/${to}`);
  }
  if (cursor.takes('on') || cursor.takes('in')) return dated('within');
  return dated('within');
}

function shiftedDay(day: string, by: number): string {
  const date = new Date(`${day}T00:00:00Z`);
  date.setUTCDate(date.getUTCDate() + by);
  return date.toISOString().slice(0, 10);
}

function lastMonth(
  cursor: Cursor,
  make: (test: Condition['test'], value: string) => Node,
  today: string,
): Node | null {
  const month = MONTHS.findIndex((name) => name.toLowerCase() === cursor.word());
  if (month < 0) return null;
  cursor.at += 1;
  const [year, now] = today.split('-').map(Number) as [number, number];
  const meant = month + 1 < now ? year : year - 1;
  return make('within', `${meant}-${String(month + 1).padStart(2, '0')}`);
}
