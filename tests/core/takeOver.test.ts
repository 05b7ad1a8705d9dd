import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { EMPTY_RECORD, type RecordValues } from '#core/records/fields';
import { fieldWords, takenOver, toldDifferently } from '#core/records/takeOver';

const text = fc.constantFrom('', 'Dune', 'dune', 'Sail');
const record: fc.Arbitrary<RecordValues> = fc
  .record({
    title: text,
    caption: text,
    creator: fc.subarray(['A', 'B']),
    creditLine: text,
    copyrightNotice: text,
    terms: fc.subarray(['Dune', 'Sail', 'Kite']),
    rating: fc.integer({ min: -1, max: 5 }),
    stage: text,
    taken: fc.constant(null),
  })
  .map((values) => ({ ...EMPTY_RECORD, ...values }));

describe('a description that is taken over', () => {
  it('replaces what the file tells, keeps what it does not tell, and adds terms', () => {
    fc.assert(
      fc.property(record, record, (held, told) => {
        const after = takenOver(held, told);
        expect(toldDifferently(after, told)).toEqual([]);
        expect(after.terms).toEqual(expect.arrayContaining([...held.terms, ...told.terms]));
        for (const key of ['title', 'caption', 'creditLine'] as const)
          expect(after[key]).toBe(told[key] || held[key]);
        expect(after.rating).toBe(told.rating || held.rating);
        expect(takenOver(held, EMPTY_RECORD)).toEqual(held);
      }),
    );
  });
  it('is named by the labels of its fields', () => {
    const told = { ...EMPTY_RECORD, title: 'T', terms: ['x'] };
    expect(fieldWords(toldDifferently(EMPTY_RECORD, told))).toBe('title, terms');
  });
});
