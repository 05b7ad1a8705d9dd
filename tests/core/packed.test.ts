import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { countOver, type Count, type Cut } from '#core/index/counting';
import { largest } from '#core/index/largest';
import { listsOf, Packed, placeOf } from '#core/index/packed';

type Plain = readonly (readonly number[])[];
/** Lists of codes below a size, most of one length, some longer, some empty. */
const made = fc
  .record({ size: fc.constantFrom(3, 250, 300, 5000, 66_000), usual: fc.nat(9) })
  .chain(({ size, usual }) => {
    const code = fc.nat(size - 1);
    const list = fc.oneof(
      { weight: 8, arbitrary: fc.uniqueArray(code, { maxLength: usual }) },
      { weight: 1, arbitrary: fc.uniqueArray(code, { maxLength: 20 }) },
      { weight: 1, arbitrary: fc.constant([]) },
    );
    return fc.record({ size: fc.constant(size), lists: fc.array(list, { maxLength: 60 }) });
  });
const packedOf = (lists: Plain, size: number): Packed =>
  Packed.of(
    listsOf(lists.length, (row) => lists[row]!, size),
    size,
  );
/** Counts by code, the plain way. */
function plain(lists: Plain, rows: number[]): { counts: Map<number, number>; lacking: number } {
  const counts = new Map<number, number>();
  let lacking = 0;
  for (const row of rows) {
    if (!lists[row]?.length) lacking += 1;
    for (const code of lists[row] ?? []) counts.set(code, (counts.get(code) ?? 0) + 1);
  }
  return { counts, lacking };
}
const inOrder = (counts: Map<number, number>, most: number): [number, number][] =>
  [...counts]
    .filter(([, count]) => count > 0)
    .sort(([a, x], [b, y]) => y - x || a - b)
    .slice(0, most);

describe('packed lists', () => {
  it('hold what was put in, in its order, whatever its length', () => {
    fc.assert(
      fc.property(made, ({ size, lists }) => {
        const packed = packedOf(lists, size);
        expect(packed.rows).toBe(lists.length);
        lists.forEach((list, row) => {
          expect(packed.listOf(row)).toEqual(list);
          expect(packed.isEmpty(row)).toBe(list.length === 0);
        });
        const again = packed.lists();
        const first = listsOf(lists.length, (row) => lists[row]!, size);
        expect([...again.codes]).toEqual([...first.codes]);
        expect([...again.offsets]).toEqual([...first.offsets]);
      }),
    );
  });

  it('have as many slots as most need, and the rest elsewhere', () => {
    const lists = Array.from({ length: 1000 }, (_, row) =>
      Array.from({ length: row % 100 === 0 ? 9 : 3 }, (__, at) => at * 7),
    );
    const packed = packedOf(lists, 100);
    expect(packed.width).toBe(3);
    expect(packed.more.rows).toHaveLength(10);
    expect(packed.slots).toBeInstanceOf(Uint8Array);
  });

  it('are counted as plain lists are, over some rows and beyond the last', () => {
    const some = fc.tuple(made, fc.array(fc.nat(70), { maxLength: 80 }), fc.nat(12), fc.boolean());
    fc.assert(
      fc.property(some, ([{ size, lists }, wished, most, isRest]) => {
        const { slots, width, more } = packedOf(lists, size);
        const rows = [...new Set(wished)].sort((a, b) => a - b);
        const expected = plain(lists, rows);
        const count: Count = { how: 'lists', slots, width, more, size };
        const found = countOver(Uint32Array.from(rows), count);
        expect(found.lacking).toBe(expected.lacking);
        expect(new Map([...found.codes].map((code, at) => [code, found.counts[at]!]))).toEqual(
          expected.counts,
        );
        // Only the largest, of what is counted or of what it leaves of everything.
        const all = plain(lists, [...lists.keys()]).counts;
        const whole = Uint32Array.from({ length: size }, (_, code) => all.get(code) ?? 0);
        const cut: Cut = isRest ? { most: most + 1, from: 0, whole } : { most: most + 1, from: 0 };
        const left = isRest
          ? new Map([...all].map(([code, n]) => [code, n - (expected.counts.get(code) ?? 0)]))
          : expected.counts;
        const few = countOver(Uint32Array.from(rows), { ...count, cut });
        expect([...few.codes].map((code, at) => [code, few.counts[at]!])).toEqual(
          inOrder(left, most + 1),
        );
        expect(few.lacking).toBe(expected.lacking);
      }),
    );
  });
});

describe('the largest sums', () => {
  it('are those of a plain sort, the smaller code first among equals', () => {
    fc.assert(
      fc.property(
        fc.array(fc.nat(9), { maxLength: 400 }),
        fc.nat(30),
        fc.nat(3),
        (sums, most, from) => {
          const counts = new Map(sums.map((count, code) => [code, count]));
          for (let code = 0; code < from; code += 1) counts.delete(code);
          const found = largest(null, Uint32Array.from(sums), from, most + 1);
          expect([...found.codes].map((code, at) => [code, found.counts[at]!])).toEqual(
            inOrder(counts, most + 1),
          );
        },
      ),
    );
  });
});

it('a place among ascending rows is found from wherever one stands before it', () => {
  const rows = Uint32Array.from([2, 3, 5, 8, 13, 21]);
  for (const [at, row] of rows.entries())
    for (let from = 0; from <= at; from += 1) expect(placeOf(rows, row, from)).toBe(at);
});
