import { describe, expect, it } from 'vitest';
import { Answers } from '#core/index/answers';
import { countOf, filled, flags, flip, isIn, packed, rowsOf } from '#core/index/bits';
import { Dictionary } from '#core/index/columns';
import type { Surroundings } from '#core/index/evaluate';
import { ShelfIndex } from '#core/index/shelfIndex';
import { parseQuery } from '#core/query/grammar';
import type { Query } from '#core/query/tree';

const idOf = (ord: number): string => `018f0000-0000-7000-8000-${String(ord).padStart(12, '0')}`;
const COLLECTION = idOf(999);

/** An index of items taken one a day, the first on 1 September 2026. */
function made(count: number): ShelfIndex {
  const index = new ShelfIndex();
  for (let ord = 1; ord <= count; ord += 1) {
    const at = Date.UTC(2026, 8, ord, 12);
    const values = {
      taken: [at, at],
      rating: ord % 6,
      bytes: ord * 1000,
      camera: `Camera ${ord % 3}`,
    };
    index.put({ ord, id: idOf(ord), numberKey: ord, aspect: 150, day: '', values });
  }
  return index;
}
const around = (now: string): Surroundings => ({
  foldersBelow: () => [],
  collection: (id) => (id === COLLECTION ? parseQuery('taken last 10 days').where : undefined),
  now: new Date(now),
  slow: new Map(),
});
const standing: Query = parseQuery(`collection #${COLLECTION}`);

describe('sets of items', () => {
  it('are packed, joined and listed without losing one, whatever their size', () => {
    for (const size of [0, 1, 31, 32, 33, 64, 1000]) {
      const own = flags(size);
      for (let row = 0; row < size; row += 3) own[row] = 1;
      const bits = packed(own);
      expect([...rowsOf(bits)]).toEqual([...own.keys()].filter((row) => own[row]));
      expect(countOf(bits)).toBe(Math.ceil(size / 3));
      flip(bits, size);
      expect(countOf(bits)).toBe(size - Math.ceil(size / 3));
      if (size > 1) expect([isIn(bits, 0), isIn(bits, 1)]).toEqual([false, true]);
      expect(countOf(filled(size, true))).toBe(size);
    }
  });

  it('of names are found by their beginnings, before and after they are put in order', () => {
    const names = new Dictionary(['kite', 'kith', 'dusk']);
    names.code('kitchen');
    const found = (prefix: string): string[] =>
      names
        .beginning(prefix)
        .map((code) => names.names[code]!)
        .sort();
    expect(found('kit')).toEqual(['kitchen', 'kite', 'kith']);
    names.prepare();
    expect(found('kit')).toEqual(['kitchen', 'kite', 'kith']);
    expect([names.code('dusk'), names.codeOf('kitchen'), names.codeOf('none')]).toEqual([
      2,
      3,
      undefined,
    ]);
  });
});

describe('answers', () => {
  it('of what a standing collection finds lately move on with the clock', () => {
    const answers = new Answers(made(20), () => null);
    expect(answers.found(standing, around('2026-09-20T12:00:00Z')).count).toBe(11);
    expect(answers.found(standing, around('2026-09-25T12:00:00Z')).count).toBe(6);
    expect(answers.found(standing, around('2027-09-25T12:00:00Z')).count).toBe(0);
  });

  it('begin a result as the whole of it begins, up and down', () => {
    const answers = new Answers(made(60), () => null);
    const now = around('2026-10-01T00:00:00Z');
    for (const text of [
      'order rating',
      'order rating down',
      'rated 5; order bytes down',
      'order camera',
    ]) {
      const query = parseQuery(text);
      expect([text, ...answers.first(query, now, 7)]).toEqual([
        text,
        ...answers.rows(query, now).subarray(0, 7),
      ]);
    }
  });

  it('count over most of everything as they count over each', () => {
    const index = made(60);
    const answers = new Answers(index, () => null);
    const now = around('2026-10-01T00:00:00Z');
    index.drop(idOf(7));
    for (const text of ['rated 1..', 'rated 5', '', 'camera "Camera 1"']) {
      const { counts, lacking } = answers.count(parseQuery(text), 'camera', now);
      const sum = [...counts.values()].reduce((all, count) => all + count, lacking);
      expect([text, sum]).toEqual([text, answers.found(parseQuery(text), now).count]);
      for (const [camera, count] of counts)
        expect(answers.found(parseQuery(`${text}; camera "${camera}"`), now).count).toBe(count);
    }
  });
});
