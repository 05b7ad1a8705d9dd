import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { planTargets } from '#core/intake/plan';
import { WASTEBASKET } from '#core/holdings/wastebasket';
import { stepWords } from '#core/ledger/told';
import { filer, Folders, treeOf } from '#core/naming/filing';
import { filler, folderPieces, namedKey, valuesNeeded } from '#core/naming/fill';
import { fingerprintOf } from '#core/naming/fingerprint';
import { formatPattern, parsePattern } from '#core/naming/grammar';
import { nameKey, nameTrouble } from '#core/naming/names';
import { writtenNumber } from '#core/naming/numerals';
import { inCountingOrder, ORDERS } from '#core/naming/order';
import {
  NUMERALS,
  SCOPES,
  type Change,
  type NameSubject,
  type Piece,
  type Source,
} from '#core/naming/piece';
import { compileRegex } from '#core/naming/regex';
import {
  changedPart,
  countLines,
  isIn,
  LINE_FILTERS,
  previewRename,
  type RenameSubject,
} from '#core/naming/rename';
import { heldIn, packSubjects, unpackSubjects } from '#core/naming/wire';
import { INTAKE_GROUPS, pieceWords, SOURCE_GROUPS } from '#core/naming/words';
import { parseWallClock } from '#core/records/taken';

const subject = (over: Partial<RenameSubject> = {}): RenameSubject => ({
  ...{
    id: 'a',
    name: 'HRN_4417.JPG',
    original: 'DSC-001.jpg',
    folder: 'f',
    path: 'Wind Week/Day one',
  },
  ...{ taken: parseWallClock('2026-09-12T19:42:07'), takenText: '2026-09-12T19:42:07' },
  ...{ precision: 'moment', offset: 120, place: 'Shelf', hash: 'abcdef0123456789' },
  ...{ brought: Date.UTC(2026, 8, 13, 22, 30), changed: Date.UTC(2026, 8, 14, 1) },
  ...over,
  values: { title: 'Over the dune', creator: 'Zoë Ångström', city: '', camera: '', ...over.values },
});
const CONTEXT = { now: Date.UTC(2026, 10, 26, 23, 30), zone: 'UTC' };
const fill = (pattern: string, over: Partial<RenameSubject> = {}): string =>
  filler(parsePattern(pattern), { ...CONTEXT, counters: new Map() })(subject(over));

describe('what a pattern says', () => {
  it.each([
    ['{brought yyyy-MM-dd HHmm}', '2026-09-13 2230'],
    ['{brought yyyy-MM-dd HHmm, in Europe/Berlin}', '2026-09-14 0030'],
    ['{changed dd}', '14'],
    ['{today yyyy-MM-dd, in Europe/Berlin}', '2026-11-27'],
    ['{taken HHmm, in America/New_York}', '1342'],
    ['{taken "d, MMMM"}', '12, September'],
    ['{folder}+{folder 1}+{folder -2}+{folder 3}', 'Day one+Wind Week+Wind Week+'],
    ['{place}-{extension, lower}-{hash, first 6}', 'Shelf-jpg-abcdef'],
    ['{original, part 2 by "-"}', '001'],
    ['{original, part -1 by "-", first 2}', '00'],
    ['{name, from 2 to 3}|{name, from 5}|{name, last 2}', 'RN|4417|17'],
    ['{creator, ascii, upper}', 'ZOE ANGSTROM'],
    ['{title, capitals, replace " " with ""}', 'OverTheDune'],
    ['{name, match "(?<no>\\d+)"}', '4417'],
    ['{name, match "([A-Z]+)_(?<no>\\d+)" as "$<no>-$1$$"}', '4417-HRN$'],
    ['{name, rewrite "[_4]+" as "."}', 'HRN.17'],
    ['{name, match "nothing"}', ''],
    ['{title, trim}', 'Over the dune'],
    ['{city, else camera, else "unknown"}', 'unknown'],
    ['{city, else creator, lower, last 8}', 'ångström'],
    ['{term under "Kite", else "no kite"}', 'no kite'],
    ['{counter 7, step 5}', '7'],
  ])('%s', (pattern, name) => {
    expect(fill(pattern)).toBe(name);
  });

  it('a part of a date that nobody knows is never made up, and something else can be said', () => {
    const year = { taken: parseWallClock('2026-01-01T00:00:00'), precision: 'year' as const };
    expect(fill('{taken yyyy-MM-dd, else taken yyyy, else "undated"}', year)).toBe('2026');
    expect(fill('{taken yyyy-MM, else "undated"}', { taken: null, precision: 'span' })).toBe(
      'undated',
    );
    // A day without an hour is no moment of another zone.
    expect(fill('{taken dd, in Pacific/Auckland}', { precision: 'day' })).toBe('12');
  });

  it.each([
    '{name, louder}',
    '{name, first 0}',
    '{name, part 1 by ""}',
    '{name, replace "" with "x"}',
    '{name, match "("}',
    '{name, match "(a)\\1"}',
    '{name, rewrite "(?=a)" as ""}',
    '{name, match "(?<no>a)" as "$<other>"}',
    '{today yyyy, in Mars/Base}',
    '{counter 1 of ""}',
    '{counter 1, step 0}',
    '{name, else}',
    '{term under ""}',
    '{title "x"}',
    `{name, match "${'a'.repeat(501)}"}`,
    'x'.repeat(1001),
  ])('refuses %s in words', (pattern) => {
    expect(() => parsePattern(pattern)).toThrowError(
      expect.objectContaining({ code: 'pattern-unclear' }),
    );
  });

  it('takes hostile expressions in time that grows with the text', () => {
    const regex = compileRegex('^(([a-z])+.)+[A-Z]([a-z])+$');
    expect(regex.match(`${'a'.repeat(20_000)}!`, null)).toBe('');
    expect(compileRegex('(x+x+)+y').rewrite('x'.repeat(20_000), '')).toHaveLength(20_000);
  });
});

const text = fc.string({ maxLength: 8 });
const source: fc.Arbitrary<Source> = fc.oneof(
  fc.record({
    of: fc.constant('date' as const),
    date: fc.constantFrom('taken', 'brought', 'changed', 'today'),
    format: fc.constantFrom('yyyy', 'yyyy-MM-dd', "d 'of' MMMM", 'd, MMMM', ' yy '),
    zone: fc.constantFrom(null, 'Europe/Berlin', 'UTC'),
  }),
  fc
    .record({
      of: fc.constant('counter' as const),
      start: fc.nat(9999),
      width: fc.integer({ min: 4, max: 8 }),
      step: fc.integer({ min: 1, max: 99 }),
      numerals: fc.constantFrom(...NUMERALS),
      scope: fc.constantFrom(...SCOPES),
      named: fc.option(fc.constantFrom('festival', 'a "b", c'), { freq: 4 }),
    })
    .map((one) => ({ ...one, scope: one.named === null ? one.scope : 'all' })),
  fc.record({
    of: fc.constant('word' as const),
    word: fc.constantFrom('name', 'original', 'hash'),
  }),
  fc.record({ of: fc.constant('folder' as const), level: fc.constantFrom(-2, -1, 1, 4) }),
  fc.record({ of: fc.constant('term' as const), under: fc.constantFrom('Kite', 'Sail, "white"') }),
  fc.record({ of: fc.constant('field' as const), key: fc.constantFrom('title', 'city', 'camera') }),
  fc.record({ of: fc.constant('text' as const), text }),
);
const change: fc.Arbitrary<Change> = fc.oneof(
  fc.record({ does: fc.constantFrom('upper', 'lower', 'capitals', 'trim', 'ascii') }),
  fc.record({ does: fc.constantFrom('first', 'last'), count: fc.integer({ min: 1, max: 99 }) }),
  fc.record({
    does: fc.constant('from' as const),
    from: fc.integer({ min: 1, max: 9 }),
    to: fc.option(fc.integer({ min: 1, max: 9 })),
  }),
  fc.record({
    does: fc.constant('part' as const),
    number: fc.constantFrom(-2, -1, 1, 3),
    by: text.filter(Boolean),
  }),
  fc.record({ does: fc.constant('replace' as const), what: text.filter(Boolean), with: text }),
  fc.record({
    does: fc.constant('match' as const),
    regex: fc.constantFrom('a"b', '(\\d+)', 'a{2}', 'x, else y'),
    as: fc.option(fc.constantFrom('$1', '"')),
  }),
  fc.record({
    does: fc.constant('rewrite' as const),
    regex: fc.constantFrom('(\\d+)', '[,}]'),
    as: fc.constantFrom('$1', ''),
  }),
);
const piece: fc.Arbitrary<Piece> = fc.record({
  choices: fc.array(fc.record({ source, changes: fc.array(change, { maxLength: 3 }) }), {
    minLength: 1,
    maxLength: 3,
  }),
});

describe('the text form', () => {
  it('is read back to the same pieces, whatever they hold', () => {
    fc.assert(
      fc.property(
        fc.array(fc.oneof(piece, fc.record({ text: text.filter(Boolean) })), { maxLength: 5 }),
        (given) => {
          // Texts side by side are one text.
          const pieces = given.reduce<Piece[]>((all, one) => {
            const last = all.at(-1);
            if (last && 'text' in last && 'text' in one)
              return [...all.slice(0, -1), { text: last.text + one.text }];
            return [...all, one];
          }, []);
          const written = formatPattern(pieces);
          expect(parsePattern(written)).toEqual(pieces);
          expect(formatPattern(parsePattern(written))).toBe(written);
        },
      ),
      { numRuns: 500 },
    );
  });

  it('can say everything that can be chosen, in words for people too', () => {
    for (const { choices } of [...SOURCE_GROUPS, ...INTAKE_GROUPS])
      for (const { make } of choices) {
        const one: Piece = { choices: [{ source: make(), changes: [] }] };
        expect(parsePattern(formatPattern([one]))).toEqual([one]);
        expect(pieceWords(one)).not.toBe('');
      }
    const early = INTAKE_GROUPS.flatMap(({ choices }) => choices.map(({ make }) => make()));
    const naming = formatPattern(early.map((one) => ({ choices: [{ source: one, changes: [] }] })));
    const [target] = planTargets({ filing: '', naming }, [subject()], () => new Set());
    expect(target!.problem).toBeNull();
    for (const late of ['{number}', '{today}', '{city}', '{counter 1 by burst}', '{folder}'])
      expect(() => planTargets({ filing: '', naming: late }, [subject()], () => new Set())).toThrow(
        'before a file is brought in',
      );
  });
});

describe('counters', () => {
  const random = fc.array(
    fc.record({
      day: fc.integer({ min: 10, max: 12 }),
      folder: fc.constantFrom('x', 'y'),
      accession: fc.constantFrom('2026.001', '2026.002'),
      camera: fc.constantFrom('Heron', 'Tern', ''),
      burst: fc.constantFrom('b1', 'b2', ''),
    }),
    { maxLength: 30 },
  );
  it('by every scope give what a plain script gives', () => {
    fc.assert(
      fc.property(
        random,
        fc.constantFrom(...SCOPES),
        fc.nat(50),
        fc.integer({ min: 1, max: 9 }),
        (rows, scope, start, step) => {
          const by = scope === 'all' ? '' : ` by ${scope}`;
          const says = filler(
            parsePattern(`{camera, else "-"}{counter ${start}${by}, step ${step}}`),
            {
              ...CONTEXT,
              counters: new Map(),
            },
          );
          const counts = new Map<string, number>();
          const names = rows.map((row) => {
            const key = {
              ...{ all: '', name: row.camera, day: String(row.day), folder: row.folder },
              ...{ accession: row.accession, camera: row.camera, burst: row.burst },
            }[scope];
            const value = counts.get(key) ?? start;
            counts.set(key, value + step);
            return `${row.camera || '-'}${value}`;
          });
          expect(
            rows.map(({ day, folder, ...values }) =>
              says(subject({ taken: parseWallClock(`2026-09-${day}T10:00:00`), folder, values })),
            ),
          ).toEqual(names);
        },
      ),
    );
  });

  it('that go on under a name begin where they stand', () => {
    const counters = new Map([[namedKey('festival'), 41]]);
    const says = filler(parsePattern('{counter 001 of "festival"}'), { ...CONTEXT, counters });
    expect([says(subject()), says(subject())]).toEqual(['041', '042']);
    expect(counters.get(namedKey('festival'))).toBe(43);
  });

  it('are written in digits, letters and Roman numbers', () => {
    const all = (numerals: 'letters' | 'roman', ...values: number[]): string[] =>
      values.map((value) => writtenNumber(value, numerals, 1));
    expect(all('letters', 1, 26, 27, 52, 53, 702, 703, 0)).toEqual([
      'a',
      'z',
      'aa',
      'az',
      'ba',
      'zz',
      'aaa',
      '0',
    ]);
    expect(all('roman', 1, 4, 9, 14, 40, 90, 400, 1994, 3999, 4000)).toEqual([
      'i',
      'iv',
      'ix',
      'xiv',
      'xl',
      'xc',
      'cd',
      'mcmxciv',
      'mmmcmxcix',
      '4000',
    ]);
  });

  it('run in the order that is asked for, and what was moved by hand stands where it was put', () => {
    const three = ['p10', 'p9', 'P2'].map((name, at) =>
      subject({
        id: name,
        name,
        original: `${9 - at}`,
        brought: at,
        takenText: `2026-09-0${3 - at}`,
      }),
    );
    const ids = (order: Partial<Parameters<typeof inCountingOrder>[1]>): string[] =>
      inCountingOrder(three, { by: 'given', down: false, moved: [], ...order }).map(({ id }) => id);
    expect(ids({})).toEqual(['p10', 'p9', 'P2']);
    expect(ids({ by: 'name' })).toEqual(['P2', 'p9', 'p10']);
    expect(ids({ by: 'taken' })).toEqual(['P2', 'p9', 'p10']);
    expect(ids({ by: 'brought', down: true })).toEqual(['P2', 'p9', 'p10']);
    expect(
      ids({
        moved: [
          { id: 'P2', before: 'p10' },
          { id: 'p10', before: null },
        ],
      }),
    ).toEqual(['P2', 'p9', 'p10']);
    expect(ids({ moved: [{ id: 'gone', before: 'p10' }] })).toEqual(['p10', 'p9', 'P2']);
    for (const by of ORDERS) expect(ids({ by })).toHaveLength(3);
  });
});

describe('who gets which name', () => {
  const named = (names: string[], titles: string[]): RenameSubject[] =>
    names.map((name, at) => subject({ id: name, name, values: { title: titles[at]! } }));
  const look = (
    subjects: RenameSubject[],
    clash: 'refuse' | 'number' | 'letter' | 'leave',
    held: string[] = [],
  ) =>
    previewRename('{title}', subjects, new Map([['f', new Set(held)]]), {
      ...{ clash, extension: 'keep' },
    });

  it('by a letter, by leaving the later one, and by leaving whoever wanted its name', () => {
    const all = named(['1.jpg', '2.jpg', '3.jpg'], ['x', 'x', 'x']);
    expect(look(all, 'letter').map(({ after }) => after)).toEqual(['x.jpg', 'xa.jpg', 'xb.jpg']);
    expect(look(all, 'leave').map(({ after, settled }) => [after, settled])).toEqual([
      ['x.jpg', null],
      ['2.jpg', 'left'],
      ['3.jpg', 'left'],
    ]);
    const chain = named(['a.jpg', 'b.jpg', 'c.jpg'], ['b', 'c', 'z']);
    expect(look(chain, 'leave', ['z.jpg']).map(({ after }) => after)).toEqual([
      'a.jpg',
      'b.jpg',
      'c.jpg',
    ]);
  });

  it('with the extension as it is, smaller, or as the pattern says', () => {
    const one = [subject()];
    const as = (extension: 'keep' | 'lower' | 'pattern', pattern: string) =>
      previewRename(pattern, one, new Map(), { clash: 'refuse', extension })[0]!.after;
    expect(as('keep', 'a')).toBe('a.JPG');
    expect(as('lower', 'a')).toBe('a.jpg');
    expect(as('pattern', 'a.{extension, lower, rewrite "jpg" as "jpeg"}')).toBe('a.jpeg');
  });

  it('however many want the same: ten thousand are told apart at once', () => {
    const count = 10_000;
    const all = Array.from({ length: count }, (_, at) =>
      subject({ id: String(at), name: `${at}.jpg`, values: { title: 'x' } }),
    );
    const names = look(all, 'number').map(({ after }) => after);
    expect(new Set(names).size).toBe(count);
    expect(names.at(-1)).toBe(`x-${count}.jpg`);
  });

  it('is stable: the same again changes nothing', () => {
    fc.assert(
      fc.property(
        fc.array(fc.constantFrom('x', 'y', 'X', 'é', 'e\u0301'), { minLength: 1, maxLength: 9 }),
        fc.constantFrom('number', 'letter'),
        (titles, rule) => {
          const first = look(
            named(
              titles.map((_, at) => `${at}.jpg`),
              titles,
            ),
            rule as 'number',
          );
          const names = first.map(({ after }) => after);
          expect(new Set(names.map(nameKey)).size).toBe(names.length);
          const second = look(named(names, titles), rule as 'number');
          expect(second.map(({ after }) => after)).toEqual(names);
        },
      ),
    );
  });

  it('is never given twice, and never what is there, whatever the names before', () => {
    const few = fc.constantFrom('x', 'X', 'x-2', 'x-3', 'xa', 'xb', 'y', 'y-2');
    fc.assert(
      fc.property(
        fc.uniqueArray(few, { minLength: 1, selector: nameKey }),
        fc.array(few, { minLength: 8, maxLength: 8 }),
        fc.subarray(['z.jpg', 'x-2.jpg', 'y.jpg', 'xa.jpg']),
        fc.constantFrom('number', 'letter', 'leave', 'refuse'),
        (stems, titles, others, rule) => {
          const before = stems.map((stem) => `${stem}.jpg`);
          const held = others.filter((name) => !before.map(nameKey).includes(name));
          const lines = look(named(before, titles), rule as 'number', held);
          const good = lines.filter(({ trouble }) => trouble === null);
          if (rule !== 'refuse') expect(good).toHaveLength(lines.length);
          const names = good.map(({ after }) => nameKey(after));
          expect(new Set(names).size).toBe(names.length);
          expect(names.filter((name) => held.includes(name))).toEqual([]);
        },
      ),
      { numRuns: 2000 },
    );
  });

  it('is not settled by leaving where the name itself cannot be', () => {
    const [line] = look(named(['a.jpg'], ['con']), 'leave');
    expect([line!.trouble, line!.settled]).toEqual(['reserved', null]);
  });

  it('turns ten thousand names in a circle without a clash', () => {
    const count = 10_000;
    const all = Array.from({ length: count }, (_, at) =>
      subject({ id: String(at), name: `${at}.jpg`, values: { title: String((at + 1) % count) } }),
    );
    const lines = look(all, 'refuse');
    expect(lines.filter(({ trouble, before, after }) => trouble ?? before === after)).toEqual([]);
  });

  it('is counted and can be looked at by kind', () => {
    const titles = ['a', 'a', '', 'con', 'x'.repeat(300), '5', '.hidden'];
    const all = named(['1.jpg', '2.jpg', '3.jpg', '4.jpg', '6.jpg', '5.jpg', '7.jpg'], titles);
    const lines = previewRename('{title, else ""}', all, new Map(), {
      ...{ clash: 'refuse', extension: 'keep' },
    });
    const counts = countLines(lines, () => 40);
    expect(counts).toMatchObject({
      all: 7,
      unchanged: 1,
      changed: 6,
      clashing: 2,
      long: 1,
      wrong: 6,
    });
    expect(counts.reserved + counts.empty).toBe(3);
    expect(counts.far).toBe(1);
    for (const filter of LINE_FILTERS)
      expect(lines.filter((line) => isIn(filter, line, 40))).toHaveLength(counts[filter]);
  });

  it('marks what is new, whole words and numbers', () => {
    const part = (before: string, after: string): string => {
      const { from, to } = changedPart(before, after);
      return after.slice(from, to);
    };
    expect(part('HRN_4415.JPG', 'SLT-0005.JPG')).toBe('SLT-0005');
    expect(part('a-b-c.jpg', 'a-x-c.jpg')).toBe('x');
    expect(part('same.jpg', 'same.jpg')).toBe('');
  });

  it('and names no disk of others takes are refused', () => {
    const odd: [string, string | null][] = [
      ['ok.jpg', null],
      ['Łódź – dusk.jpg', null],
      ['nul.txt', 'reserved'],
      ['COM1', 'reserved'],
      ['a\u0007.jpg', 'characters'],
      ['a\uD800.jpg', 'characters'],
      ['a?.jpg', 'characters'],
      ['end .', 'edges'],
      [' x.jpg', 'edges'],
      ['..', 'dots'],
      [`${'é'.repeat(121)}.jpg`, 'long'],
    ];
    for (const [name, trouble] of odd) expect(nameTrouble(name)).toBe(trouble);
  });
});

describe('what is sent to whoever looks', () => {
  it('says the same as what it was made of', () => {
    const subjects = [
      subject({ followers: [{ id: 's', name: 'HRN_4417.xmp', folder: 'f' }] }),
      subject({ id: 'b', name: 'B.jpg', original: 'B.jpg', taken: null, takenText: null }),
    ];
    const folders = [
      { id: 'f', place: 'Shelf', path: 'Wind Week/Day one', room: 30, held: ['c.jpg'] },
    ];
    const back = unpackSubjects(packSubjects(subjects, folders, ['title'], true));
    const pattern = '{taken yyyyMMdd}-{title}-{hash, first 4}-{folder}-{counter 1}';
    const lines = (of: RenameSubject[]) =>
      previewRename(pattern, of, heldIn(folders), { clash: 'refuse', extension: 'keep' });
    expect(lines(back)).toEqual(lines(subjects));
    expect(fingerprintOf(lines(back))).toBe(fingerprintOf(lines(subjects)));
    expect(fingerprintOf(lines(back.reverse()))).not.toBe(fingerprintOf(lines(subjects)));
  });

  it('holds what a pattern asks for', () => {
    expect(
      valuesNeeded(parsePattern('{city, else term under "Kite"}{counter 1 by burst}{name}')),
    ).toEqual({ fields: ['city', 'burst'], under: ['Kite'] });
  });
});

describe('folders of a plan', () => {
  const context = { ...CONTEXT, counters: new Map<string, number>() };
  const filed = (pattern: string, missing: 'fallback' | 'known' | 'leave', of: NameSubject) =>
    filer({ pattern, missing, fallback: 'rest' }, context)(of);

  it('part at slashes of the text alone, and stop where nothing is known', () => {
    expect(folderPieces('a/{title, replace "/" with "-"}//b/ ')).toHaveLength(3);
    const unknown = subject({ values: { title: 'a/b' } });
    expect(filed('{title}/{taken yyyy}', 'fallback', unknown).path).toBe('a-b/2026');
    expect(filed('{taken yyyy}/{city}/x', 'fallback', unknown)).toEqual({
      path: '2026/rest',
      isPart: true,
    });
    expect(filed('{taken yyyy}/{city}/x', 'known', unknown).path).toBe('2026');
    expect(filed('{taken yyyy}/{city}/x', 'leave', unknown).path).toBeNull();
    expect(filed('{taken yyyy}/{city, else "nowhere"}', 'leave', unknown).path).toBe(
      '2026/nowhere',
    );
  });

  it('join what is there as it is spelled, and are new once', () => {
    const folders = new Folders(['', 'Cafe\u0301', 'Cafe\u0301/Two']);
    expect(folders.join('CAFÉ/two/Three')).toBe('Cafe\u0301/Two/Three');
    expect(folders.join('café/TWO/three')).toBe('Cafe\u0301/Two/Three');
    expect(folders.isNew('Cafe\u0301/Two/Three')).toBe(true);
    expect(folders.isNew('Cafe\u0301/Two')).toBe(false);
  });

  it('make a tree whose counts are those of all below', () => {
    const tree = treeOf(
      [
        { place: 'P', path: 'a/b', isNew: true, comes: 2, stays: 1 },
        { place: 'P', path: 'a', isNew: false, comes: 3, stays: 0 },
      ],
      (_, path) => path === 'a/b',
    );
    expect(tree.map(({ path, comes, below, isNew }) => [path, comes, below, isNew])).toEqual([
      ['', 0, 5, false],
      ['a', 3, 5, false],
      ['a/b', 2, 2, true],
    ]);
  });
});

describe('moves in the ledger', () => {
  it('are told by whole paths, places by name, copies as what they are', () => {
    const [place, folder] = ['Shelf', 'Loose/one'];
    const [from, to] = [
      { place, folder, name: 'a.jpg' },
      { place: 'Depot', folder: '2026', name: 'b.jpg' },
    ];
    expect(stepWords({ folder, name: 'a.jpg' }, { folder: '2026', name: 'a.jpg' })).toEqual({
      ...{ before: 'Loose/one/a.jpg', after: '2026/a.jpg' },
    });
    expect(stepWords(from, to)).toEqual({
      ...{ before: 'Shelf/Loose/one/a.jpg', after: 'Depot/2026/b.jpg' },
    });
    expect(stepWords(from, { ...to, copyId: '1' }).after).toBe('copied to Depot/2026/b.jpg');
    expect(stepWords({ ...to, copyId: '1' }, from)).toEqual({
      ...{ before: 'copy Depot/2026/b.jpg', after: 'taken away' },
    });
    expect(stepWords(from, { folder: WASTEBASKET, name: 'x' }).after).toBe('wastebasket');
    expect(stepWords({}, { place, path: '2026' })).toEqual({
      ...{ before: 'no folder', after: 'folder Shelf/2026' },
    });
    expect(stepWords({ path: 'a' }, {})).toEqual({ before: 'folder a', after: 'removed' });
    expect(stepWords({ name: 'a' }, { name: 'b' })).toEqual({ before: 'a', after: 'b' });
  });
});
