/** Times in equal steps: how densely they lie. */
export const UNITS = ['decade', 'year', 'month', 'day', 'hour', 'clock'] as const;
/** `clock`: the hour of whatever day. */
export type Unit = (typeof UNITS)[number];

export interface Bin {
  /** `1990s`, `2026`, `2026-09`, `2026-09-12`, `2026-09-12T19`; of the clock `19`. */
  at: string;
  count: number;
  bytes: number;
}

export interface Density {
  unit: Unit;
  /** In order; empty steps are left out. */
  bins: Bin[];
  /** Without a time. */
  unknown: number;
  /** Known less exactly than a step: from and to as far as they reach, EDTF days. */
  wide: { from: string; to: string; count: number }[];
}

/** More steps than a screen shows; hours are asked for within some days. */
export const MOST_BINS = 20_000;
/** Spans told one by one; further ones are told as one. */
export const MOST_WIDE = 400;

const DAY_MS = 86_400_000;
/** Length of the step's name in ISO 8601. */
export const LENGTH: Record<Unit, number> = {
  decade: 3,
  year: 4,
  month: 7,
  day: 10,
  hour: 13,
  clock: 13,
};

/** Names of steps of wall clocks in ms; days repeat, so each is named once. */
export function stepNames(unit: Unit): (ms: number) => string {
  const ofDay = new Map<number, string>();
  const dayOf = (ms: number): string => {
    const day = Math.floor(ms / DAY_MS);
    let name = ofDay.get(day);
    if (name === undefined) {
      const iso = new Date(day * DAY_MS).toISOString();
      name = iso.slice(
        0,
        iso.startsWith('+') || iso.startsWith('-') ? LENGTH[unit] + 3 : Math.min(10, LENGTH[unit]),
      );
      if (unit === 'decade') name = `${name}0s`;
      ofDay.set(day, name);
    }
    return name;
  };
  if (unit !== 'hour' && unit !== 'clock') return dayOf;
  return (ms) => {
    const hour = String(Math.floor((((ms % DAY_MS) + DAY_MS) % DAY_MS) / 3_600_000)).padStart(
      2,
      '0',
    );
    return unit === 'clock' ? hour : `${dayOf(ms)}T${hour}`;
  };
}

/** Put counts by step and spans together. */
export function densityOf(
  unit: Unit,
  bins: Map<string, { count: number; bytes: number }>,
  wide: Map<string, number>,
  unknown: number,
): Density {
  const spans = [...wide]
    .map(([key, count]) => ({ from: key.slice(0, 10), to: key.slice(11), count }))
    .sort((a, b) => b.count - a.count);
  const rest = spans.slice(MOST_WIDE);
  const first = rest.reduce((least, { from }) => (from < least ? from : least), '9999-12-31');
  const last = rest.reduce((most, { to }) => (to > most ? to : most), '');
  return {
    unit,
    bins: [...bins]
      .map(([at, sums]) => ({ at, ...sums }))
      .sort((a, b) => (a.at < b.at ? -1 : 1))
      .slice(0, MOST_BINS),
    unknown,
    wide: [
      ...spans.slice(0, MOST_WIDE),
      ...(rest.length > 0
        ? [{ from: first, to: last, count: rest.reduce((sum, { count }) => sum + count, 0) }]
        : []),
    ],
  };
}
