import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { possibleNames, type Dictionary, type Named } from '#core/english/dictionary';
import { readSentence } from '#core/english/read';
import { folderAsked, inCollection, inFolder, orderedBy } from '#core/query/edit';
import { guessedIn, readingsOf } from '#core/english/readings';
import { formatQuery, parseQuery } from '#core/query/grammar';
import { sentence, sentenceText } from '#core/query/sentence';
import { DEFAULT_ORDER, has, is, not, refTo, type Node, type Query } from '#core/query/tree';
import { ANYTHING, queries, uuid } from '../support/queries';

const any = queries(ANYTHING);
const every = (where: Node[], order = DEFAULT_ORDER): Query => ({ where, order });

describe('the compact form', () => {
  it('reads back what it writes', () => {
    const property = fc.property(any, (query) => {
      expect(parseQuery(formatQuery(query))).toEqual(query);
    });
    fc.assert(property, { numRuns: 1000 });
  });

  it('reads clauses as the documentation shows them', () => {
    expect(
      parseQuery(
        'kind photo, footage; in "Studio shelf/Wind Week" only; taken 2026-09; rated 3..; stage "With retoucher", none; term Kite, Dune; lacking credit; words north groyne; order name',
      ),
    ).toEqual(
      every(
        [
          is('kind', 'photo', 'footage'),
          { field: 'folder', test: 'only', values: ['Studio shelf/Wind Week'] },
          { field: 'taken', test: 'within', values: ['2026-09'] },
          { field: 'rating', test: 'range', values: [3, null] },
          { any: [is('stage', 'With retoucher'), not(has('stage'))] },
          is('terms', 'Kite'),
          is('terms', 'Dune'),
          not(has('creditLine')),
          { field: 'words', test: 'says', values: ['north groyne'] },
        ],
        { by: 'name', down: false },
      ),
    );
    expect(
      parseQuery(
        'any (rated 5; term any Kite, "none"; not kind sound); iso 100..400; group camera',
      ),
    ).toMatchObject({ group: 'camera' });
    expect(parseQuery('in Box (old); term Sail(2)').where).toEqual([
      { field: 'folder', test: 'in', values: ['Box (old)'] },
      is('terms', 'Sail(2)'),
    ]);
  });

  it.each(['', '  ', ';;', 'kind', 'all ()'])('takes “%s” for everything', (text) =>
    expect(parseQuery(text)).toEqual({ where: [], order: DEFAULT_ORDER }),
  );

  it.each([
    ['colour red', 'begins no clause'],
    ['rated 9', 'rating'],
    ['rated 4..2', 'ends before'],
    ['taken yesterday', 'one date'],
    ['taken last 0 days', 'count of days'],
    ['kind sculpture', 'there are'],
    ['in only', 'takes a value'],
    ['words "open', 'not closed'],
    ['any (rated 3', 'not closed'],
    ['rated 3)', 'write a number'],
    ['order noisiness', 'sort by'],
    ['order name sideways', 'up or down'],
    ['group name', 'group by'],
    ['number 12', 'catalogue number'],
    [Array.from({ length: 200 }, () => 'rated 3').join('; '), 'more than 100'],
    [`${'any (rated 1; '.repeat(9)}rated 2; rated 3${')'.repeat(9)}`, 'deeper'],
    ['words '.padEnd(100_000, 'x'), 'longer'],
    ['title contains "a\0b"', 'characters'],
  ])('says what is unclear in “%.40s”', (text, words) => {
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

/** Names that try to be misread. */
const LABELS = [
  'Kite',
  'Night kites',
  'and',
  'Studio shelf/Wind Week',
  'Box, all levels',
  'x “y” z',
  'not',
  'three pips or more',
  '2026',
  'Über dem Watt',
];
const named: Named[] = (
  ['term', 'stage', 'collection', 'accession', 'person', 'folder'] as const
).flatMap((kind) => LABELS.map((label, at) => ({ kind, id: uuid(at).slice(1), label })));
const find: Dictionary = (name) => named.filter(({ label }) => label.toLowerCase() === name);
const labelOf = (reference: string): string | undefined =>
  named.find(({ id }) => refTo(id) === reference)?.label;
const TODAY = '2026-11-25';

describe('the sentence', () => {
  const say = (text: string): string => sentenceText(parseQuery(text), () => undefined);
  const read = (text: string) => readSentence(text, find, TODAY);

  it('is English', () => {
    expect(
      say('kind photo, footage; in "Wind Week"; taken 2026-09; rated 3..; lacking credit'),
    ).toBe(
      'photos and footage in Wind Week, all levels, taken in September 2026, three pips or more, not yet credited, ordered by time taken, latest first',
    );
    expect(say('rated rejected; order name')).toBe(
      'items of every kind in all holdings, rejected, ordered by name',
    );
    expect(say('any (rated 5; term Kite; not kind sound); iso 100..; group camera')).toBe(
      'items of every kind in all holdings, either five pips or else about Kite or else not of kind sounds, ISO 100 or more, ordered by time taken, latest first, parted by camera',
    );
  });

  it('asks clips about their spans', () => {
    const asked = (text: string): string => formatQuery(read(text).query);
    expect(asked('footage with spans of four pips or more')).toBe(
      'kind footage; spans (rated 4..)',
    );
    expect(asked('footage with spans')).toBe('kind footage; spans');
    expect(asked('without spans that are rejected')).toBe('none (spans (rated rejected))');
    expect(asked('with spans (four pips or more and also saying “dusk”)')).toBe(
      'spans (rated 4..; words dusk)',
    );
    expect(formatQuery(parseQuery('not spans'))).toBe('none (spans)');
  });

  it('reads back what it says', () => {
    fc.assert(
      fc.property(any, (query) => {
        const text = sentenceText(query, labelOf);
        const { query: again, unread } = read(text);
        expect([text, unread]).toEqual([text, []]);
        expect([text, headFirst(again)]).toEqual([text, headFirst(query)]);
      }),
      { numRuns: 200 },
    );
  }, 30_000);

  it.each([
    [
      'night kites from last September without credit, four pips or more',
      `term ${uuid(1)}; taken 2026-09; lacking creditLine; rated 4..`,
      [],
    ],
    [
      'photos about kite in the last 30 days',
      `kind photo; term ${uuid(0)}; taken last 30 days`,
      [],
    ],
    ['blurry footage, undated', 'kind footage; lacking taken', ['blurry']],
    ['Pictures of “Kite” taken each September', `term ${uuid(0)}; taken each 09`, []],
    ['ISO 3200 or more before 2020', 'iso 3200..; taken before 2020', []],
  ])('understands “%s”', (text, clauses, unread) => {
    const found = read(text);
    expect([formatQuery(found.query), found.unread]).toEqual([clauses, unread]);
  });

  it('never throws anything but a clear error', () => {
    fc.assert(
      fc.property(fc.string({ maxLength: 120 }), (text) => {
        possibleNames(text);
        try {
          read(text);
        } catch (error) {
          expect(error).toMatchObject({ code: 'query-unclear' });
        }
      }),
    );
  });

  it('holds against what nests without end', () => {
    for (const text of ['either (', 'not ', 'neither rejected nor ('])
      try {
        expect(read(text.repeat(800)).query.where.length).toBeLessThan(100);
      } catch (error) {
        expect(error).toMatchObject({ code: 'query-unclear' });
      }
  });

  it('opens every condition it states', () => {
    fc.assert(
      fc.property(any, (query) => {
        const opened = sentence(query, labelOf).map((run) => run.opens);
        query.where.forEach((_, index) => expect(opened).toContain(index));
        expect(opened).toContain('order');
      }),
    );
  });
});

/** The sentence says kind and folder first, wherever they stood. */
function headFirst(query: Query): Query {
  const rank = (node: Node): number => {
    if (!('field' in node) || node.not) return 2;
    if (
      node ===
      query.where.find(
        (one) => 'field' in one && one.field === 'kind' && one.test === 'is' && !one.not,
      )
    )
      return 0;
    return node ===
      query.where.find(
        (one) => 'field' in one && one.field === 'folder' && one.values.length === 1 && !one.not,
      )
      ? 1
      : 2;
  };
  return { ...query, where: [...query.where].sort((a, b) => rank(a) - rank(b)) };
}

describe('what is typed', () => {
  const today = '2026-11-25';
  it('is read again with what unread words may mean, each only where less is left unread', () => {
    const text = 'photos from Septmber 2026 withot credit';
    const { runs } = readingsOf(text, [], today);
    const guesses = runs.flatMap(({ words, meant }) => (meant ? [{ typed: words, meant }] : []));
    const wrong = [{ typed: 'photos from', meant: '"Nothing of this name"' }, ...guesses];
    const found = guessedIn(text, wrong, [], today);
    expect(found.text).toBe('photos from September 2026 without credit');
    expect(found.guessed.map(({ typed }) => typed)).toEqual(['Septmber', 'withot']);
  });

  it('is read in every way in which a name may be meant, the plainest first', () => {
    const names: Named[] = (['term', 'folder', 'collection'] as const).map((kind) => ({
      kind,
      id: `00000000-0000-7000-8000-00000000000${kind.length}`,
      label: 'Night kites',
    }));
    const { ways } = readingsOf('photos night kites', names, today);
    expect(ways.map(({ query }) => formatQuery(query).split(';').length)).toEqual([2, 2, 2]);
    expect(new Set(ways.map(({ query }) => formatQuery(query))).size).toBe(3);
    const many = Array.from({ length: 40 }, (_, at): Named => ({
      ...names[0]!,
      id: `${names[0]!.id.slice(0, -2)}${10 + at}`,
    }));
    expect(readingsOf('photos night kites', many, today).ways.length).toBeLessThanOrEqual(6);
  });
});

describe('a query changed by one step', () => {
  const asked = (text: string) => parseQuery(text);
  const id = '01890000-0000-7000-8000-000000000001';
  it('asks of one folder, of all levels or this one, or of everywhere', () => {
    const inside = inFolder(asked('rated 3..; in "Studio shelf"'), id, false);
    expect(formatQuery(inside)).toBe(`rated 3..; in #${id} only`);
    expect(folderAsked(inside)).toEqual({ at: 1, deep: false });
    expect(formatQuery(inFolder(inside, null, true))).toBe('rated 3..');
    expect(folderAsked(asked('not in "Studio shelf"'))).toEqual({ at: -1, deep: true });
    expect(formatQuery(inFolder(asked(''), id, true))).toBe(`in #${id}`);
  });
  it('asks of a collection, in its own order where it has one', () => {
    expect(formatQuery(inCollection(asked('rated 3..'), id, true))).toBe(
      `collection #${id}; order hand`,
    );
    expect(formatQuery(inCollection(asked('order name'), id, false))).toBe(
      `collection #${id}; order name`,
    );
  });
  it('is ordered by a field, and by the same the other way round', () => {
    const byName = orderedBy(asked(''), 'name');
    expect(byName.order).toEqual({ by: 'name', down: false });
    expect(orderedBy(byName, 'name').order).toEqual({ by: 'name', down: true });
    expect(orderedBy(byName, 'bytes').order).toEqual({ by: 'bytes', down: true });
  });
});
