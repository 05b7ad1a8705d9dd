import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { EMPTY_RECORD } from '#core/records/fields';
import { summaryOf } from '#core/records/merge';

const record = fc.record({
  id: fc.uuid(),
  number: fc.string(),
  version: fc.nat(),
  values: fc.record({
    title: fc.constantFrom('', 'Sail', 'Dune'),
    creditLine: fc.constantFrom('', 'Ours'),
    terms: fc.subarray(['Kite', 'Dune', 'Sail']),
  }),
});

describe('what is said of a choice of items', () => {
  it('is the value all share, or how many there are; terms by how they are spread', () => {
    fc.assert(
      fc.property(fc.array(record, { maxLength: 12 }), (list) => {
        const records = list.map((one) => ({ ...one, values: { ...EMPTY_RECORD, ...one.values } }));
        const said = summaryOf(records);
        expect(said.count).toBe(records.length);
        expect(said.lackCredit).toBe(records.filter((one) => !one.values.creditLine).length);
        if (records.length === 0) {
          expect(said.merged).toBeNull();
          return;
        }
        const titles = new Set(records.map((one) => one.values.title));
        expect(said.merged!.title.mixed).toBe(titles.size > 1 ? titles.size : 0);
        expect([...titles] as string[]).toContain(said.merged!.title.value);
        for (const { term, count, all } of said.terms) {
          expect(count).toBe(records.filter((one) => one.values.terms.includes(term)).length);
          expect(all).toBe(count === records.length);
        }
        expect(said.number).toBe(records.length === 1 ? records[0]!.number : null);
      }),
    );
  });
  it('tells versions of few items only', () => {
    const one = { number: 'n', version: 3, values: EMPTY_RECORD };
    const many = Array.from({ length: 2001 }, (_, at) => ({ ...one, id: `${at}` }));
    expect(summaryOf(many).versions).toEqual({});
    expect(summaryOf(many.slice(0, 1)).versions).toEqual({ 0: 3 });
  });
});
