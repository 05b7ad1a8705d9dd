import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { EMPTY_RECORD } from '#core/records/fields';
import { balance } from '#core/records/merge';
import { mergeAll } from '../support/spread';

const record = fc.record({
  title: fc.constantFrom('', 'Sail', 'Dune'),
  creator: fc.subarray(['Ida', 'Bo', 'Zoë']),
  event: fc.constantFrom('', 'Wind Week'),
  persons: fc.subarray(['Ida', 'Bo']),
});

describe('what is said of a choice of items', () => {
  it('is the value all share, or how many there are and which are said most', () => {
    fc.assert(
      fc.property(fc.array(record, { minLength: 1, maxLength: 12 }), (records) => {
        const said = mergeAll(records);
        const titles = records.map(({ title }) => title);
        const kinds = new Set(titles);
        expect(said.title.mixed).toBe(kinds.size > 1 ? kinds.size : 0);
        expect([...kinds] as string[]).toContain(said.title.value);
        for (const { text, count } of said.title.among)
          expect(count).toBe(titles.filter((one) => one === text).length);
        for (const { text, count } of said.creator.among)
          expect(count).toBe(
            records.filter(({ creator }) => creator.includes(text as 'Bo')).length,
          );
        const counts = said.creator.among.map(({ count }) => count);
        expect(counts).toEqual([...counts].sort((a, b) => b - a));
        // It is the same where what is blank is left out.
        const filled = records.map(({ title, creator, event, persons }) => ({
          ...{ title, creator, ...(event ? { event } : {}) },
          ...(persons.length > 0 ? { persons } : {}),
        }));
        const bare = mergeAll(filled);
        for (const key of ['title', 'creator', 'event', 'persons'] as const)
          expect({ ...bare[key], value: null }).toEqual({ ...said[key], value: null });
        expect(said.rating).toEqual({ value: EMPTY_RECORD.rating, mixed: 0, among: [] });
      }),
    );
  });
  it('tells the most frequent of very many', () => {
    const many = Array.from({ length: 5000 }, (_, at) => ({
      event: at % 7 === 0 ? 'Often' : `Once ${at}`,
    }));
    const { among, mixed } = mergeAll(many).event;
    expect(among[0]).toEqual({ text: 'Often', count: 715 });
    expect([among.length, mixed]).toEqual([5, 4286]);
  });
  it('is how terms are spread', () => {
    const given = [
      { term: 'Dune', count: 1 },
      { term: 'Kite', count: 3 },
    ];
    expect(balance(given, 3)).toEqual([
      { term: 'Kite', count: 3, all: true },
      { term: 'Dune', count: 1, all: false },
    ]);
  });
});
