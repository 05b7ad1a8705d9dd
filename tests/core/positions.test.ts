import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { formatPosition, kilometres, parsePosition, positionAt } from '#core/geo/position';
import { factsOfTrack, onTrack, type Track } from '#core/positions/track';
import {
  changeFor,
  momentOf,
  namesAt,
  positionsBy,
  spotAt,
  type Placed,
  type PositionWish,
  type Spot,
} from '#core/positions/wish';
import { EMPTY_RECORD } from '#core/records/fields';
import { VALUES } from '#core/records/schemas';
import { takenFromText } from '#core/records/taken';

describe('a position', () => {
  it.each([
    ['54.3207, 10.1349', '54.3207, 10.1349'],
    ['54.3207 10.1349', '54.3207, 10.1349'],
    ['54.3207;10.1349', '54.3207, 10.1349'],
    ['−54.3207, −10.1349', '-54.3207, -10.1349'],
    ['54.3207 N, 10.1349 W', '54.3207, -10.1349'],
    ['E 10.1349, N 54.3207', '54.3207, 10.1349'],
    ['54° 19′ 14.52″ N, 10° 8′ 5.64″ E', '54.3207, 10.1349'],
    [`54°19'14.52"N 10°8'5.64"E`, '54.3207, 10.1349'],
    ['N 54 19.242 E 010 08.094', '54.3207, 10.1349'],
    ['S 54 19 14.52, W 10 8 5.64', '-54.3207, -10.1349'],
    ['geo:54.3207,10.1349;u=35', '54.3207, 10.1349'],
    ['0, 0', '0, 0'],
  ])('reads %s', (text, read) => {
    expect(formatPosition(parsePosition(text)!)).toBe(read);
  });
  it.each([
    ...['', 'Kiel', '54.3207', '91, 10', '54, 181', '54.3, 10.1, 4', '54 N, 10 N', '-54 N, 10 E'],
    ...['54° 61′ N, 10° E', '1e3, 2', `${'1'.repeat(200)}, 2`],
  ])('reads nothing in “%s”', (text) => {
    expect(parsePosition(text)).toBeNull();
  });
  it('reads back what it writes', () => {
    const degrees = (most: number) => fc.double({ min: -most, max: most, noNaN: true });
    fc.assert(
      fc.property(degrees(90), degrees(180), (latitude, longitude) => {
        const text = formatPosition(positionAt(latitude, longitude)!);
        expect(formatPosition(parsePosition(text)!)).toBe(text);
        expect(VALUES.position.parse(text)).toBe(text);
      }),
    );
  });
  it('takes no time over what looks like many numbers', () => {
    for (const text of [
      '1'.repeat(119),
      '1 '.repeat(59),
      `${' '.repeat(100)}1`,
      '1°1′1″'.repeat(19),
    ])
      expect(parsePosition(text)).toBeNull();
  });
});

/** A walk along a parallel, a point each minute, with an hour of nothing and a stretch of its own after it. */
const START = Date.parse('2026-09-12T10:00:00Z');
const minute = (at: number, longitude: number) => ({
  ...{ at: START + at * 60_000, latitude: 54, longitude },
});
const TRACK: Track = [
  [minute(0, 10), minute(1, 10.1), minute(2, 10.2), minute(62, 11)],
  [minute(120, 12), minute(121, 12.1)],
];
const LIMITS = { gap: 600, beyond: 120 };

describe('a track', () => {
  const at = (minutes: number) => onTrack(TRACK, START + minutes * 60_000, LIMITS);
  it('is between two points where it was a share of the way', () => {
    expect(at(0.5).position).toEqual({ latitude: 54, longitude: 10.05 });
    expect(at(1).position).toEqual({ latitude: 54, longitude: 10.1 });
    expect(at(120.25).position).toEqual({ latitude: 54, longitude: 12.025 });
  });
  it('says nothing in a gap, nor between two stretches', () => {
    expect(at(30)).toEqual({ position: null, why: 'its track has a gap of 60 min there' });
    expect(at(90)).toEqual({ position: null, why: 'the track is 28 min away from it' });
  });
  it('holds its ends for a while', () => {
    expect(at(-1).position).toEqual({ latitude: 54, longitude: 10 });
    expect(at(122).position).toEqual({ latitude: 54, longitude: 12.1 });
    expect(at(130).why).toBe('the track is 9 min away from it');
    expect(onTrack([], START, LIMITS).why).toBe('the track has no points');
  });
  it('crosses the date line by the shorter way', () => {
    const over: Track = [[minute(0, 179.9), minute(1, -179.9)]];
    expect(onTrack(over, START + 30_000, LIMITS).position!.longitude).toBe(180);
    expect(onTrack(over, START + 45_000, LIMITS).position!.longitude).toBeCloseTo(-179.95);
  });
  it('never leads away from the points around a moment', () => {
    const pair = fc.tuple(fc.integer({ min: 0, max: 5000 }), fc.integer({ min: -80, max: 80 }));
    const points = fc.array(pair, { minLength: 1, maxLength: 40 });
    fc.assert(
      fc.property(points, fc.integer({ min: -100, max: 5100 }), (pairs, second) => {
        const stretch = pairs
          .map(([seconds, latitude]) => ({ at: seconds * 1000, latitude, longitude: 0 }))
          .sort((a, b) => a.at - b.at);
        const { position } = onTrack([stretch], second * 1000, LIMITS);
        if (!position) return;
        const degrees = stretch
          .filter(({ at: own }) => Math.abs(own - second * 1000) <= LIMITS.gap * 1000)
          .map(({ latitude }) => latitude);
        expect(position.latitude).toBeGreaterThanOrEqual(Math.min(...degrees));
        expect(position.latitude).toBeLessThanOrEqual(Math.max(...degrees));
      }),
    );
  });
  it('tells from when to when it goes', () => {
    expect(factsOfTrack(TRACK)).toMatchObject({ points: 6, stretches: 2, from: START });
    expect(factsOfTrack([[]])).toBeNull();
  });
});

const SPOTS: Spot[] = [
  {
    ...{ name: 'The bay', latitude: 54, longitude: 10, radius: 5000 },
    ...{ sublocation: '', city: 'Saltreach', state: 'Coast', country: '' },
  },
  {
    ...{ name: 'The workshop', latitude: 54.001, longitude: 10, radius: 200 },
    ...{ sublocation: 'Workshop', city: '', state: '', country: '' },
  },
];
const KNOWN = { sublocation: '', city: 'Kiel', state: '', country: 'Germany' };

describe('kept places', () => {
  it('hold within their radius, the narrowest first', () => {
    expect(spotAt(SPOTS, { latitude: 54.0012, longitude: 10 })?.name).toBe('The workshop');
    expect(spotAt(SPOTS, { latitude: 54.02, longitude: 10 })?.name).toBe('The bay');
    expect(spotAt(SPOTS, { latitude: 55, longitude: 10 })).toBeUndefined();
    expect(kilometres(54, 10, 55, 10)).toBeCloseTo(111.2, 0);
  });
  it('give their names, and the gazetteer what they do not say', () => {
    expect(namesAt(SPOTS, { latitude: 54.001, longitude: 10 }, KNOWN)).toEqual({
      ...{ sublocation: 'Workshop', city: 'Kiel', state: '', country: 'Germany' },
    });
    expect(namesAt(SPOTS, { latitude: 54.02, longitude: 10 }, KNOWN)).toEqual({
      ...{ sublocation: 'The bay', city: 'Saltreach', state: 'Coast', country: 'Germany' },
    });
    expect(namesAt([], { latitude: 1, longitude: 1 }, null).city).toBe('');
  });
});

describe('positions of many', () => {
  const placed = (taken: string, position = ''): Placed => ({
    ...{ id: taken, name: taken, neighbour: null },
    values: { ...EMPTY_RECORD, taken: taken ? takenFromText(taken) : null, position },
  });
  const wish: PositionWish = {
    ...{ act: 'track', track: '', clock: 0, offset: 120 },
    ...{ gap: 600, beyond: 0, over: false },
  };
  it('come from a track by clock and zone; what is not known stays', () => {
    const items = [
      placed('2026-09-12 12:01:00'),
      placed('2026-09-12 11:01:00+01:00'),
      placed('2026-09-12'),
      placed(''),
      placed('2026-09-12 12:30:00'),
      placed('2026-09-12 12:01:00', '1, 1'),
    ];
    const found = positionsBy(wish, items, TRACK);
    expect(found.map(({ after }) => after)).toEqual([
      ...['54, 10.1', '54, 10.1', '', '', '', '1, 1'],
    ]);
    expect(found.map(({ problem }) => problem)).toEqual([
      ...[null, null, 'its time of day is not known', 'its time of day is not known'],
      ...['its track has a gap of 60 min there', null],
    ]);
    expect(positionsBy({ ...wish, clock: 60, over: true }, items, TRACK)[5]!.after).toBe(
      '54, 10.2',
    );
    expect(momentOf(takenFromText('2026-09'), 0)).toBeNull();
  });
  it('come from neighbours where there is one', () => {
    const near = { position: '2, 2', number: '2026.001.0001' };
    const items = [
      { ...placed('2026-09-12 12:01:00'), neighbour: near },
      placed('2026-09-12 12:02:00'),
      { ...placed('2026-09-12 12:01:00', '3, 3'), neighbour: near },
    ];
    expect(
      positionsBy({ act: 'neighbours', minutes: 5 }, items, []).map(({ after }) => after),
    ).toEqual([...['2, 2', '', '3, 3']]);
  });
  it('refuse what is no position', () => {
    expect(() => positionsBy({ act: 'set', text: 'there' }, [], [])).toThrow(/no position/);
    expect(positionsBy({ act: 'set', text: '' }, [placed('', '1, 1')], [])[0]!.after).toBe('');
  });
  it('fill blank names, or others too where that is wished', () => {
    const values = { ...EMPTY_RECORD, createdCity: 'Here' };
    const names = { ...KNOWN, sublocation: 'Pier' };
    expect(changeFor(values, '1, 1', names, { into: ['created'], over: false })).toEqual({
      ...{ position: '1, 1', createdSublocation: 'Pier', createdCountry: 'Germany' },
    });
    expect(changeFor(values, '', names, { into: ['created', 'shown'], over: true })).toMatchObject({
      ...{ createdCity: 'Kiel', city: 'Kiel', sublocation: 'Pier' },
    });
    expect(changeFor(values, '', null, { into: ['shown'], over: true })).toEqual({});
  });
});
