import { describe, expect, it } from 'vitest';
import { Answers } from '#core/index/answers';
import { barChoices, BARS, bins } from '#core/choices/shown';
import { countOf, filled, flip, isIn, markWhere, rowsOf } from '#core/index/bits';
import { Dictionary } from '#core/index/dictionary';
import { PostingColumn } from '#core/index/postings';
import { compareBytes } from '#core/index/orders';
import { Texts } from '#core/index/texts';
import { random } from '../../demo/paint/random';
import type { Surroundings } from '#core/index/evaluate';
import { inOrder, ShelfIndex } from '#core/index/shelfIndex';
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
    index.put({
      ord,
      id: idOf(ord),
      numberKey: ord,
      aspect: 150,
      day: '',
      values: inOrder(values),
    });
  }
  return index;
}
const around = (now: string): Surroundings => ({
  foldersBelow: () => [],
  collection: (id) => (id === COLLECTION ? parseQuery('taken last 10 days').where : undefined),
  now: new Date(now),
  slow: new Map(),
  seen: [],
});
const standing: Query = parseQuery(`collection #${COLLECTION}`);

describe('sets of items', () => {
  it('are packed, joined and listed without losing one, whatever their size', () => {
    for (const size of [0, 1, 31, 32, 33, 64, 1000]) {
      const own = Uint8Array.from({ length: size }, (_, row) => (row % 3 === 0 ? 1 : 0));
      const bits = filled(size, false);
      markWhere(own, Uint8Array.of(0, 1), () => false, bits);
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
        .map((code) => names.name(code))
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

describe('bars', () => {
  it('hold the numbers they say they hold', () => {
    const { int } = random(4);
    for (let round = 0; round < 400; round += 1) {
      const from = int(0, 9000);
      const to = from + int(1, 5000);
      const binOf = bins(from, to);
      for (const value of [from, to, from + int(0, to - from), 2000].filter(
        (one) => one >= from && one <= to,
      )) {
        const counts = new Array<number>(BARS).fill(0);
        counts[binOf(value)] = 1;
        const [low, high] = String(barChoices({ from, to, counts })[0]!.value)
          .split('..')
          .map(Number);
        expect([from, to, value, value >= low! && value <= high!]).toEqual([from, to, value, true]);
      }
    }
  });
});

describe('spans', () => {
  const clips = (index: ShelfIndex, text: string, seen = ''): number[] => {
    const asked = { ...around('2026-09-30T00:00:00Z'), seen: parseQuery(seen).where };
    return [...new Answers(index, () => null).found(parseQuery(text), asked).rows];
  };

  it('are told of their clips, those alone that are there and that one may see', () => {
    const index = made(3);
    for (const [ord, clip, rating, access] of [
      [4, 1, 5, 'open'],
      [5, 1, 2, 'open'],
      [6, 2, 4, 'closed'],
      [7, 9, 4, 'open'],
    ] as const) {
      const values = inOrder({ rating, access, kind: 'span' });
      index.put({ ord, clip, id: idOf(ord), numberKey: ord, aspect: 150, day: '', values });
    }
    expect(clips(index, 'spans')).toEqual([1, 2]);
    expect(clips(index, 'not spans; not kind span')).toEqual([3]);
    expect(clips(index, 'spans (rated 4..)')).toEqual([1, 2]);
    expect(clips(index, 'spans (rated 4..)', 'access open')).toEqual([1]);
    expect(clips(index, 'spans (any (rated 2; rated 3))')).toEqual([1]);
    // Both of one span, not each of another.
    expect(clips(index, 'spans (rated 5; rated 2)')).toEqual([]);
    expect(clips(index, 'spans (rated 5); spans (rated 2)')).toEqual([1]);
    index.drop(idOf(4));
    expect(clips(index, 'spans (rated 4..)')).toEqual([2]);
  });

  it('in a standing collection are those one may see, whoever asked before', () => {
    const index = made(2);
    const values = inOrder({ access: 'closed', kind: 'span' });
    index.put({ ord: 3, clip: 2, id: idOf(3), numberKey: 3, aspect: 150, day: '', values });
    const answers = new Answers(index, () => null);
    const asks = (seen: string): number[] => [
      ...answers.found(standing, {
        ...around('2026-09-30T00:00:00Z'),
        collection: () => parseQuery('spans').where,
        seen: parseQuery(seen).where,
      }).rows,
    ];
    expect(asks('')).toEqual([2]);
    expect([
      ...answers.found(parseQuery(`collection #${COLLECTION}; not access waiting`), {
        ...around('2026-09-30T00:00:00Z'),
        collection: () => parseQuery('spans').where,
        seen: parseQuery('access open').where,
      }).rows,
    ]).toEqual([]);
  });
});

describe('words', () => {
  it('are found wherever they are said now, before and after lists are built anew', () => {
    const words = new PostingColumn();
    const said = new Map<number, number[]>();
    const { int } = random(9);
    const compare = (): void => {
      for (let code = 0; code < 12; code += 1) {
        const bits = filled(200, false);
        words.mark([code], bits);
        const wished = [...said].filter(([, codes]) => codes.includes(code)).map(([row]) => row);
        expect([...rowsOf(bits)]).toEqual(wished.sort((a, b) => a - b));
      }
      const any = filled(200, false);
      words.markAny(any);
      expect(countOf(any)).toBe([...said.values()].filter(({ length }) => length > 0).length);
    };
    for (let step = 0; step < 300; step += 1) {
      const row = int(1, 150);
      const codes = [...new Set(Array.from({ length: int(0, 4) }, () => int(0, 11)))];
      words.set(row, codes);
      said.set(row, codes);
      if (step % 50 === 49) words.settle(step % 100 === 99 ? 1 : 20_000);
      if (step % 60 === 0) compare();
    }
    words.settle(1);
    compare();
  });
});

describe('texts', () => {
  it('come back as they were, in the order of code points, after being saved too', () => {
    const wished = ['kite', 'Kïte', '', '凧', '🪁 up', 'kit', 'a'.repeat(3000), '\uffee'];
    const texts = Texts.of(wished);
    texts.set(2, 'no longer empty, and longer than it was');
    // What is replaced again and again takes no more and more room.
    for (let time = 0; time < 4000; time += 1) texts.set(6, String(time).repeat(300));
    texts.set(6, wished[6]!);
    const now = wished.map((text, at) =>
      at === 2 ? 'no longer empty, and longer than it was' : text,
    );
    for (const own of [texts, Texts.from(texts.toPlain())]) {
      expect(Array.from({ length: own.length }, (_, at) => own.at(at))).toEqual(now);
      expect([...own.sorted()].map((at) => own.at(at))).toEqual([...now].sort(compareBytes));
    }
  });
});

describe('an index of nothing', () => {
  it('that was saved and read takes in what comes, its words too', () => {
    const empty = new ShelfIndex();
    const fields = new Map([...empty.fields.keys()].map((key) => [key, empty.plainField(key)]));
    const index = ShelfIndex.from(empty.toPlain(), fields);
    const values = { words: ['kite', 'harbour'], creator: ['Bea Lund'], name: 'a.jpg' };
    index.put({ ord: 1, id: idOf(1), numberKey: 1, aspect: 150, day: '', values: inOrder(values) });
    const answers = new Answers(index, () => null);
    const now = around('2026-10-01T00:00:00Z');
    for (const text of ['words kite', 'words harb', 'creator is "Bea Lund"', 'name is a.jpg'])
      expect([text, answers.found(parseQuery(text), now).count]).toEqual([text, 1]);
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
