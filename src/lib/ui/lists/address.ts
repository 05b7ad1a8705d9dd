import { formatQuery } from '#core/query/grammar';
import { EVERYTHING, refTo, type Condition } from '#core/query/tree';

/** Where the catalogue shows what a condition finds. */
const addressOf = (condition: Condition): string =>
  `/catalogue?${new URLSearchParams({ q: formatQuery({ ...EVERYTHING, where: [condition] }) }).toString()}`;

export const withEntry = (field: 'stage' | 'terms', id: string): string =>
  addressOf({ field, test: 'is', values: [refTo(id)] });

/** What breaks a rule of the house, or any. */
export const notReady = (label?: string): string =>
  addressOf(
    label
      ? { field: 'unready', test: 'is', values: [label] }
      : { field: 'unready', test: 'has', values: [] },
  );

/** What was taken within a kept place. */
export const nearSpot = (spot: { latitude: number; longitude: number; radius: number }): string =>
  addressOf({
    field: 'position',
    test: 'near',
    values: [spot.latitude, spot.longitude, spot.radius / 1000],
  });

export const creditedTo = (names: string[]): string =>
  addressOf({ field: 'creator', test: 'is', values: names });
