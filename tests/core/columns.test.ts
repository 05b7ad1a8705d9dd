import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { barChoices, BARS, bins } from '#core/choices/shown';
import { filled, isIn, rowsOf, say, type Bits } from '#core/index/bits';
import { CodeColumn } from '#core/index/codeColumn';
import { ManyColumn } from '#core/index/manyColumn';
import { NumberColumn } from '#core/index/numberColumns';
import { countOver, type Sums } from '#core/index/counting';
import { evaluate, type Surroundings } from '#core/index/evaluate';
import { ItemSet } from '#core/index/itemSet';
import { inOrder, ShelfIndex } from '#core/index/shelfIndex';
import { askedInterval } from '#core/query/meaning';
import type { Condition } from '#core/query/tree';
import { random as seeded } from '../../demo/paint/random';

const DAY_MS = 86_400_000;
const idOf = (ord: number): string => `018f0000-0000-7000-8000-${String(ord).padStart(12, '0')}`;

const inOrderOf = (counts: Map<number, number>): [number, number][] =>
  [...counts].filter(([, count]) => count > 0).sort(([a], [b]) => a - b);
const byCode = ({ codes, counts }: Sums): [number, number][] =>
  inOrderOf(new Map(Array.from(codes, (code, at) => [code, counts[at]!])));

/** What is counted over some items is what one counts by hand. */
function expectCounted(
  column: ManyColumn,
  plain: ReadonlyMap<number, readonly number[]>,
  bits: Bits,
): void {
  const rows = rowsOf(bits);
  const sums = column.told(countOver(rows, column.counting()!), (row) => isIn(bits, row));
  const expected = new Map<number, number>();
  let none = 0;
  for (const row of rows) {
    const own = plain.get(row) ?? [];
    if (own.length === 0) none += 1;
    for (const code of own) expected.set(code, (expected.get(code) ?? 0) + 1);
  }
  expect([byCode(sums), sums.lacking]).toEqual([inOrderOf(expected), none]);
}

describe('columns of the index', () => {
  const { int } = seeded(11);

  it('find items by their code alike, looked through or listed, through changes', () => {
    let wereFew = 0;
    for (const [codes, every] of [
      [8, 1],
      [300, 1],
      [300, 7],
      [70_000, 1],
    ] as const) {
      const column = new CodeColumn<number>();
      const plain = new Map<number, number>();
      const set = (row: number, value: number | null): void => {
        column.set(row, value);
        if (value === null) plain.delete(row);
        else plain.set(row, value);
      };
      for (let row = 1; row < 90_000; row += every) set(row, row % codes);
      for (let turn = 0; turn < 6; turn += 1) {
        const wished = new Set([int(0, codes - 1), int(0, codes - 1)]);
        const odd = int(0, codes - 1);
        const table = column.lookUp((value) => wished.has(value));
        const perhaps = column.codeOf(odd);
        if (!wished.has(odd) && perhaps > 0) table[perhaps] = 2;
        const out = filled(90_100, false);
        const isOdd = (row: number): boolean => row % 2 === 1;
        column.mark(table, out, isOdd);
        const few = column.few(table, isOdd);
        if (few) {
          wereFew += 1;
          expect([...ItemSet.of(few, 90_100).rows]).toEqual([...rowsOf(out)]);
        }
        const expected = [...plain]
          .filter(([row, value]) => wished.has(value) || (value === odd && row % 2 === 1))
          .map(([row]) => row);
        expect([...rowsOf(out)]).toEqual(expected.sort((a, b) => a - b));
        for (let step = 0; step < (turn === 4 ? 25_000 : 40); step += 1)
          set(int(1, 90_050), int(0, 9) === 0 ? null : int(0, codes - 1));
      }
    }
    expect(wereFew).toBeGreaterThan(5);
  });

  it('tell how many of some items have each of many values, through changes', () => {
    for (const kinds of [6, 5000]) {
      const column = new ManyColumn();
      const plain = new Map<number, number[]>();
      const set = (row: number, codes: number[]): void => {
        column.set(row, codes);
        plain.set(row, codes);
      };
      const some = (): number[] => [
        ...new Set(Array.from({ length: int(0, 4) }, () => int(0, kinds - 1))),
      ];
      expect(column.counting()).toBeNull();
      for (let row = 1; row < 9000; row += 1) set(row, some());
      for (let turn = 0; turn < 4; turn += 1) {
        column.settle(turn % 2 ? 1 : 1_000_000);
        if (turn > 0) column.prepare();
        const bits = filled(9100, false);
        for (let row = 0; row < 9100; row += 1) say(bits, row, int(0, 2) > 0);
        expectCounted(column, plain, bits);
        for (let step = 0; step < 300; step += 1) set(int(1, 9050), some());
      }
    }
  });

  it('tell lists shorter where codes follow from others, and count, find and save them as they are', () => {
    // A forest of four levels, some of whose trees hang under two others.
    const above = (code: number): number[] =>
      code < 40 ? [] : code % 17 === 0 ? [code % 40, (code + 1) % 40] : [Math.floor(code / 5)];
    const closed = (codes: readonly number[]): number[] => {
      const all = new Set(codes);
      for (const code of all) for (const one of above(code)) all.add(one);
      return [...all];
    };
    let column = new ManyColumn(true);
    const plain = new Map<number, number[]>();
    const set = (row: number, codes: number[]): void => {
      column.set(row, codes);
      plain.set(row, codes);
    };
    const some = (kinds: number): number[] =>
      closed(Array.from({ length: int(0, 5) }, () => int(0, kinds - 1)));
    for (let row = 1; row < 9000; row += 1) set(row, some(3000));
    column.settle(1);
    column.prepare();
    const lengthOf = (): number => column.toPlain().codes.length;
    const wholeLength = (): number => [...plain.values()].flat().length;
    expect(lengthOf()).toBeLessThan(wholeLength() * 0.8);
    for (let turn = 0; turn < 8; turn += 1) {
      const bits = filled(9100, false);
      const part = turn % 2 ? 300 : 2;
      for (let row = 0; row < 9100; row += 1) say(bits, row, int(1, part) === 1);
      expectCounted(column, plain, bits);
      const all = new Uint32Array(column.most + 1);
      for (const own of plain.values()) for (const code of own) all[code]! += 1;
      expect(column.whole(9000).sums).toEqual(all);
      for (const code of [3, 41, 700, 2999, 3100]) {
        const holding = [...plain].filter(([, own]) => own.includes(code)).map(([row]) => row);
        const out = filled(9100, false);
        column.mark([code], out);
        expect([...rowsOf(out)]).toEqual(holding.sort((a, b) => a - b));
        const few = column.few([code]);
        if (few) expect([...ItemSet.of(few, 9100).rows]).toEqual(holding);
      }
      for (const row of [1, 17, 4000, 8999, 9050])
        expect([...column.get(row)].sort()).toEqual([...(plain.get(row) ?? [])].sort());
      // Codes nobody knew, and lists that lack what followed until now.
      for (let step = 0; step < 200; step += 1) set(int(1, 9050), some(turn === 4 ? 3200 : 3000));
      if (turn === 5) set(int(1, 9000), [2999]);
      if (turn !== 2) column.settle(1);
      if (turn === 3) column = ManyColumn.from(structuredClone(column.toPlain()), true);
    }
  });

  it('spread numbers over bars as one would by looking at each, whatever steps they have', () => {
    for (const range of [50, 5000, 5_000_000_000]) {
      const column = new NumberColumn();
      const plain = new Map<number, number>();
      const set = (row: number, value: number | null): void => {
        column.set(row, value);
        if (value === null) plain.delete(row);
        else plain.set(row, value);
      };
      const some = (): number => Math.floor((int(0, 1_000_000) / 1_000_000) ** 3 * range);
      for (let row = 1; row < 9000; row += 1) if (row % 9 > 0) set(row, some());
      for (let turn = 0; turn < 4; turn += 1) {
        if (turn > 0) column.prepare();
        const every = [1, 3, 100, 4000][turn]!;
        const rows = Uint32Array.from({ length: 9500 }, (_, row) => row).filter(
          (row) => row % every === 0,
        );
        const sums = countOver(rows, column.steps.counting());
        const { counts, lacking, span } = column.spread(sums, new ItemSet({ rows }, 9500));
        const own = [...rows].flatMap((row) => plain.get(row) ?? []);
        const [from, to] = [Math.min(...own), Math.max(...own)];
        const expected = new Array<number>(BARS).fill(0);
        const binOf = bins(from, to);
        for (const value of own) expected[binOf(value)]! += 1;
        expect(span).toEqual({ from, to });
        expect([[...counts], lacking]).toEqual([expected, rows.length - own.length]);
        expect(barChoices({ from, to, counts: [...counts] }).length).toBeGreaterThan(0);
        for (let step = 0; step < 500; step += 1)
          set(int(1, 9400), int(0, 9) === 0 ? null : some() * (turn + 1));
      }
    }
    const rows = Uint32Array.of(3, 4);
    const empty = new NumberColumn();
    const none = empty.spread(countOver(rows, empty.steps.counting()), new ItemSet({ rows }, 9500));
    expect([none.lacking, none.span]).toEqual([2, { from: Infinity, to: -Infinity }]);
  });

  it('find times by their months as one would by looking at each', () => {
    const index = new ShelfIndex();
    const times: [number, number][] = [];
    const first = Date.UTC(1998, 0, 1);
    for (let ord = 1; ord <= 600; ord += 1) {
      const from = first + int(0, 9000) * DAY_MS + int(0, DAY_MS);
      const wide = [0, 0, DAY_MS - 1, 31 * DAY_MS, 366 * DAY_MS, 4000 * DAY_MS][int(0, 5)]!;
      times[ord] = [from, from + wide];
      const values = inOrder({ taken: times[ord] });
      index.put({ ord, id: idOf(ord), numberKey: ord, aspect: 150, day: '', values });
    }
    const around = {
      now: new Date(Date.UTC(2022, 5, 15, 12)),
      slow: new Map(),
    } as unknown as Surroundings;
    const found = (condition: Condition): number[] => [
      ...rowsOf(evaluate(index, condition, around, (_, make) => make())),
    ];
    const two = (value: number): string => String(value).padStart(2, '0');
    const day = fc
      .tuple(fc.integer({ min: 1996, max: 2024 }), fc.integer({ min: 1, max: 12 }))
      .chain(([year, month]) =>
        fc.constantFrom(
          String(year),
          `${year}-${two(month)}`,
          `${year}-${two(month)}-15`,
          `${year}/${year + 3}`,
          `${year}-${two(month)}-10/${year + 1}-02-03`,
        ),
      );
    const tests = fc.constantFrom('before', 'after', 'overlaps', 'within') as fc.Arbitrary<
      Condition['test']
    >;
    fc.assert(
      fc.property(tests, day, (test, value) => {
        const asked = askedInterval(value)!;
        const [from, to] = [Date.parse(`${asked.from}Z`), Date.parse(`${asked.to}Z`)];
        const holds = ([a, b]: [number, number]): boolean =>
          test === 'before'
            ? b < from
            : test === 'after'
              ? a > to
              : test === 'overlaps'
                ? a <= to && b >= from
                : a >= from && b <= to;
        const expected = times.flatMap((time, ord) => (holds(time) ? [ord] : []));
        expect(found({ field: 'taken', test, values: [value] })).toEqual(expected);
      }),
      { numRuns: 300 },
    );
    for (const value of ['2', '9', '09-15', '12-31']) {
      const [month, date] = value.split('-').map(Number);
      const fits = (at: number): boolean =>
        new Date(at).getUTCMonth() + 1 === month &&
        (date === undefined || new Date(at).getUTCDate() === date);
      const expected = times.flatMap(([a, b], ord) =>
        fits(a) && fits(b) && new Date(a).getUTCFullYear() === new Date(b).getUTCFullYear()
          ? [ord]
          : [],
      );
      expect(found({ field: 'taken', test: 'each', values: [value] })).toEqual(expected);
    }
    for (const [count, unit] of [
      [30, 'days'],
      [8, 'years'],
    ] as const) {
      const since = new Date(around.now);
      if (unit === 'days') since.setUTCDate(since.getUTCDate() - count);
      else since.setUTCFullYear(since.getUTCFullYear() - count);
      const expected = times.flatMap(([a], ord) => (a >= since.getTime() ? [ord] : []));
      expect(found({ field: 'taken', test: 'last', values: [count, unit] })).toEqual(expected);
    }
  });
});
