import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { formatQuery, parseQuery } from '#core/query/grammar';
import { sentence } from '#core/query/sentence';
import { DEFAULT_ORDER, LACKABLE, ORDERS, type Query } from '#core/query/tree';
import { KINDS } from '#core/kinds/kinds';

const word = fc
  .string({ minLength: 1, maxLength: 20 })
  .map((text) => text.replace(/\s+/g, ' ').trim())
  .filter((text) => text !== '');
const unless = <T>(arbitrary: fc.Arbitrary<T>) => fc.option(arbitrary, { nil: undefined });

const queries: fc.Arbitrary<Query> = fc
  .record({
    kinds: unless(fc.uniqueArray(fc.constantFrom(...KINDS), { minLength: 1 })),
    folder: unless(
      fc.record({
        place: word.filter((text) => !text.includes('/')),
        path: fc.constantFrom('', 'a', 'Wind Week/Night kites', 'x; "y"'),
        deep: fc.boolean(),
      }),
    ),
    taken: unless(
      fc.constantFrom('2026', '2026-09', '2026-09-12', '2026-09-01/2026-09-12', 'unknown'),
    ),
    rated: unless(
      fc
        .tuple(fc.integer({ min: -1, max: 5 }), fc.integer({ min: -1, max: 5 }))
        .map(([a, b]) => ({ min: Math.min(a, b), max: Math.max(a, b) })),
    ),
    stages: unless(fc.uniqueArray(fc.oneof(word, fc.constant('')), { minLength: 1 })),
    terms: unless(fc.uniqueArray(word, { minLength: 1 })),
    lacking: unless(fc.uniqueArray(fc.constantFrom(...LACKABLE), { minLength: 1 })),
    words: unless(word),
    accession: unless(fc.constant('2026.014')),
    number: unless(fc.constant('2026.014.0237')),
    collection: unless(word),
    order: fc.record({ by: fc.constantFrom(...ORDERS), down: fc.boolean() }),
  })
  .map(
    (query) =>
      Object.fromEntries(Object.entries(query).filter(([, value]) => value !== undefined)) as Query,
  );

describe('the compact form', () => {
  it('reads back what it writes', () => {
    const property = fc.property(queries, (query) => {
      expect(parseQuery(formatQuery(query))).toEqual(query);
    });
    fc.assert(property, { numRuns: 500 });
  });

  it('reads clauses as the documentation shows them', () => {
    expect(
      parseQuery(
        'kind photo, footage; in "Studio shelf/Wind Week" only; taken 2026-09; rated 3..; stage "With retoucher", none; term Kite; lacking credit; words north groyne; order name',
      ),
    ).toEqual({
      kinds: ['photo', 'footage'],
      folder: { place: 'Studio shelf', path: 'Wind Week', deep: false },
      taken: '2026-09',
      rated: { min: 3, max: 5 },
      stages: ['With retoucher', ''],
      terms: ['Kite'],
      lacking: ['credit'],
      words: 'north groyne',
      order: { by: 'name', down: false },
    });
  });

  it.each(['', '  ', ';;'])('takes “%s” for everything', (text) =>
    expect(parseQuery(text)).toEqual({ order: DEFAULT_ORDER }),
  );

  it.each([
    ['colour red', 'begins no clause'],
    ['rated 9', 'rated'],
    ['rated', 'one value'],
    ['taken yesterday', 'is no date'],
    ['kind sculpture', 'there are'],
    ['in', 'one place'],
    ['words "open', 'not closed'],
    ['order loudness', 'there are'],
    ['number 12', 'catalogue number'],
  ])('says what is unclear in “%s”', (text, words) => {
    expect(() => parseQuery(text)).toThrow(words);
  });

  it('never hangs or throws anything but a clear error', () => {
    fc.assert(
      fc.property(fc.string({ maxLength: 200 }), (text) => {
        try {
          parseQuery(text);
        } catch (error) {
          expect(error).toMatchObject({ code: 'query-unclear' });
        }
      }),
    );
  });
});

describe('the sentence', () => {
  const say = (text: string): string =>
    sentence(parseQuery(text))
      .map((run) => run.text)
      .join('');

  it('is English', () => {
    expect(
      say(
        'kind photo, footage; in "Studio shelf/Wind Week"; taken 2026-09; rated 3..; lacking credit',
      ),
    ).toBe(
      'photos and footage in Wind Week, all levels, taken in September 2026, three pips or more, not yet credited, ordered by time taken, latest first',
    );
    expect(say('rated rejected; order name')).toBe(
      'items of every kind in all holdings, rejected, ordered by name',
    );
  });

  it('opens a clause for every condition it states', () => {
    fc.assert(
      fc.property(queries, (query) => {
        const opened = sentence(query).map((run) => run.opens);
        for (const key of Object.keys(query)) expect(opened).toContain(key);
      }),
    );
  });
});
