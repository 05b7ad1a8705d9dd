import type { Bin, Unit } from './bins';

/** Steps of a chart: every one of a span, empty ones too. */
export interface Step {
  /** EDTF of the step: `2026`, `2026-09`, `2026-09-12`; of decades `199X`. */
  edtf: string;
  label: string;
  count: number;
}

/** More bars than can be told apart on a screen. */
export const MOST_BARS = 130;
const COARSER: Partial<Record<Unit, Unit>> = {
  hour: 'day',
  day: 'month',
  month: 'year',
  year: 'decade',
};
const MONTHS = 'Jan Feb Mar Apr May Jun Jul Aug Sep Oct Nov Dec'.split(' ');

const two = (value: number): string => String(value).padStart(2, '0');
const four = (value: number): string => String(value).padStart(4, '0');

/** Number of a step since the year 0, and back. */
function numberOf(at: string, unit: Unit): number {
  const [year = 0, month = 1] = at.split('-').map(Number);
  if (unit === 'decade') return Math.floor(parseInt(at, 10) / 10);
  if (unit === 'year') return year;
  if (unit === 'month') return year * 12 + month - 1;
  const day = Math.round(Date.parse(`${at.slice(0, 10)}T00:00:00Z`) / 86_400_000);
  return unit === 'day' ? day : day * 24 + Number(at.slice(11, 13));
}

function stepOf(number: number, unit: Unit): Omit<Step, 'count'> {
  if (unit === 'decade')
    return { edtf: `${String(number).padStart(3, '0')}X`, label: `${number}0s` };
  if (unit === 'year') return { edtf: four(number), label: String(number) };
  if (unit === 'month') {
    const [year, month] = [Math.floor(number / 12), number % 12];
    return { edtf: `${four(year)}-${two(month + 1)}`, label: `${MONTHS[month]} ${year}` };
  }
  const day = new Date((unit === 'day' ? number : Math.floor(number / 24)) * 86_400_000);
  const edtf = day.toISOString().slice(0, 10);
  const label = `${day.getUTCDate()} ${MONTHS[day.getUTCMonth()]} ${day.getUTCFullYear()}`;
  if (unit === 'day') return { edtf, label };
  const hour = two(((number % 24) + 24) % 24);
  return { edtf: `${edtf}T${hour}`, label: `${label}, ${hour}:00` };
}

/** A step named as one of the next coarser unit. */
const coarse = (at: string, unit: Unit): string =>
  unit === 'decade'
    ? `${at.slice(0, 3)}0s`
    : at.slice(0, { year: 4, month: 7, day: 10 }[unit as 'year']);

/** Every step from the first to the last, of the finest unit that stays readable. */
export function stepsOf(bins: readonly Bin[], unit: Unit): { unit: Unit; steps: Step[] } {
  if (bins.length === 0) return { unit, steps: [] };
  const numbers = bins.map(({ at }) => numberOf(at, unit));
  const [first, last] = [Math.min(...numbers), Math.max(...numbers)];
  const coarser = COARSER[unit];
  if (last - first + 1 > MOST_BARS && coarser) {
    const sums = new Map<string, Bin>();
    for (const { at, count, bytes } of bins) {
      const key = coarse(at, coarser);
      const known = sums.get(key);
      sums.set(key, {
        at: key,
        count: (known?.count ?? 0) + count,
        bytes: (known?.bytes ?? 0) + bytes,
      });
    }
    return stepsOf([...sums.values()], coarser);
  }
  const steps: Step[] = [];
  const counts = new Map(numbers.map((number, at) => [number, bins[at]!.count]));
  for (let number = first; number <= Math.min(last, first + MOST_BARS * 4); number += 1)
    steps.push({ ...stepOf(number, unit), count: counts.get(number) ?? 0 });
  return { unit, steps };
}

/** EDTF of a span from one step to another. */
export function spanOf(from: Step, to: Step): string {
  if (from.edtf === to.edtf && !from.edtf.includes('T')) return from.edtf;
  const day = ({ edtf }: Step): string => edtf.slice(0, 10);
  // Hours are no EDTF of their own: the day they lie in.
  return day(from) === day(to) ? day(from) : `${day(from)}/${day(to)}`;
}
