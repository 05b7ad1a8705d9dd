import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { gather, isInside, MOST_CLUSTERS } from '#core/atlas/clusters';
import {
  blocksOf,
  guessHeight,
  lastAtMost,
  layBlock,
  scaled,
  TALLEST,
  topsOf,
} from '#core/wall/blocks';
import { densityOf, stepNames } from '#core/timeline/bins';
import { spanOf, stepsOf } from '#core/timeline/steps';

const OPTIONS = { width: 940, rowHeight: 150, gap: 8, heading: 34, label: 28 };

describe('the blocks of a wall', () => {
  const groups = fc.array(
    fc.record({ count: fc.integer({ min: 1, max: 4000 }), wide: fc.constant(0) }),
    { minLength: 1, maxLength: 12 },
  );

  it('hold every item once, in order, whatever the groups', () => {
    fc.assert(
      fc.property(groups, (all) => {
        const blocks = blocksOf(all);
        let next = 0;
        for (const { from, count } of blocks) {
          expect(from).toBe(next);
          expect(count).toBeGreaterThan(0);
          next += count;
        }
        expect(next).toBe(all.reduce((sum, { count }) => sum + count, 0));
        expect(blocks.filter(({ isFirst }) => isFirst)).toHaveLength(all.length);
      }),
    );
  });

  it('are about as tall as they were guessed, and leave no ragged row within a group', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 60, max: 240 }), { minLength: 700, maxLength: 3000 }),
        (aspects) => {
          const wide = aspects.reduce((sum, one) => sum + one / 100, 0);
          for (const block of blocksOf([{ count: aspects.length, wide }])) {
            const own = aspects.slice(block.from, block.from + block.count).map((one) => one / 100);
            const layout = layBlock(block, own, OPTIONS);
            expect(Math.abs(layout.height - guessHeight(block, OPTIONS))).toBeLessThan(
              layout.height * 0.2,
            );
            const last = layout.rows.at(-1)!;
            const end = layout.left[last.to - 1]! + layout.width[last.to - 1]!;
            if (!block.isLast) expect(end).toBeCloseTo(OPTIONS.width, 0);
            expect(layout.rows.reduce((sum, { from, to }) => sum + to - from, 0)).toBe(block.count);
          }
        },
      ),
      { numRuns: 20 },
    );
  });

  it('are reached from end to end of a page that browsers allow', () => {
    const { page, toWall, toScroll } = scaled(300_000_000, 600);
    expect(page).toBe(TALLEST);
    expect(toWall(0)).toBe(0);
    expect(toWall(TALLEST - 600)).toBeCloseTo(300_000_000 - 600, 0);
    expect(toWall(toScroll(123_456_789))).toBeCloseTo(123_456_789, 3);
    expect(scaled(5000, 600).toWall(700)).toBe(700);
    const tops = topsOf([10, 20, 30]);
    expect([...tops]).toEqual([0, 10, 30, 60]);
    expect([-1, 0, 9, 10, 59].map((at) => lastAtMost(tops, at, 3))).toEqual([-1, 0, 0, 1, 2]);
  });
});

describe('times in steps', () => {
  it('are named as ISO 8601 names them, before the epoch too', () => {
    const at = Date.parse('1957-10-04T19:28:34Z');
    expect(
      (['decade', 'year', 'month', 'day', 'hour', 'clock'] as const).map((unit) =>
        stepNames(unit)(at),
      ),
    ).toEqual([...['1950s', '1957', '1957-10', '1957-10-04', '1957-10-04T19', '19']]);
  });

  it('fill a chart without gaps, coarser where there are too many', () => {
    const bins = [
      { at: '2025-11', count: 2, bytes: 0 },
      { at: '2026-02', count: 3, bytes: 0 },
    ];
    const { unit, steps } = stepsOf(bins, 'month');
    expect(unit).toBe('month');
    expect(steps.map(({ edtf, count }) => [edtf, count])).toEqual([
      ...[
        ['2025-11', 2],
        ['2025-12', 0],
        ['2026-01', 0],
        ['2026-02', 3],
      ],
    ]);
    expect(spanOf(steps[0]!, steps[3]!)).toBe('2025-11/2026-02');
    const wide = stepsOf([{ at: '1850-01', count: 1, bytes: 0 }, ...bins], 'month');
    expect(wide.unit).toBe('decade');
    expect(wide.steps.reduce((sum, { count }) => sum + count, 0)).toBe(6);
  });

  it('tell what is known less exactly, and how much more there is', () => {
    const wide = new Map(
      Array.from({ length: 900 }, (_, at) => [`${1000 + at}-01-01/${1000 + at}-12-31`, 1] as const),
    );
    const found = densityOf('month', new Map([['2026-09', { count: 5, bytes: 7 }]]), wide, 3);
    expect(found.wide.reduce((sum, { count }) => sum + count, 0)).toBe(900);
    expect([found.unknown, found.bins]).toEqual([3, [{ at: '2026-09', count: 5, bytes: 7 }]]);
  });
});

describe('positions on a map', () => {
  it('are gathered without losing one, across the date line too', () => {
    const point = fc.tuple(fc.integer({ min: -85, max: 85 }), fc.integer({ min: -180, max: 180 }));
    fc.assert(
      fc.property(
        fc.array(point, { maxLength: 200 }),
        fc.constantFrom(0.1, 5, 40),
        (points, cell) => {
          const grid = gather(cell);
          points.forEach(([latitude, longitude], at) => grid.add(latitude, longitude, at));
          const clusters = grid.clusters();
          expect(clusters.reduce((sum, { count }) => sum + count, 0)).toBe(points.length);
          for (const one of clusters) expect(isInside(one, one.latitude, one.longitude)).toBe(true);
        },
      ),
    );
    const many = gather(0.0001);
    for (let at = 0; at < 9000; at += 1) many.add((at % 90) - 45, Math.floor(at / 90) - 50, at);
    const few = many.clusters();
    expect(few.length).toBeLessThanOrEqual(MOST_CLUSTERS);
    expect(few.reduce((sum, { count }) => sum + count, 0)).toBe(9000);
    const fiji = { south: -20, north: -15, west: 176, east: -178 };
    expect([isInside(fiji, -17, 179), isInside(fiji, -17, -179), isInside(fiji, -17, 0)]).toEqual([
      true,
      true,
      false,
    ]);
  });
});
