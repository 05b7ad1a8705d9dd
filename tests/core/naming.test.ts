import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { planTargets, safeName } from '#core/intake/plan';
import { filler } from '#core/naming/fill';
import { formatPattern, parsePattern } from '#core/naming/grammar';
import { apartFrom, nameKey, nameProblem, pathProblem } from '#core/naming/names';
import type { NameSubject } from '#core/naming/piece';
import { previewRename, type RenameSubject } from '#core/naming/rename';
import { parseWallClock } from '#core/records/taken';

const subject = (over: Partial<NameSubject> = {}): NameSubject => ({
  name: 'HRN_4417.JPG',
  original: 'HRN_4417.JPG',
  taken: parseWallClock('2026-09-12T19:42:07'),
  precision: 'moment',
  folder: 'Wind Week',
  ...over,
  values: {
    camera: 'Marlow Heron 5',
    creator: 'Bea Lund',
    title: 'Over the dune',
    number: '2026.014.0237',
    ...over.values,
  },
});
const fill = (pattern: string, over: Partial<NameSubject> = {}): string =>
  filler(parsePattern(pattern), { counters: new Map(), now: 0, zone: 'UTC' })(subject(over));

describe('name patterns', () => {
  it('fills dates from the time taken', () => {
    expect(fill('SLT-{taken MMdd}-{name}')).toBe('SLT-0912-HRN_4417');
    expect(fill("{taken yyyy'y' EEEE d MMMM HHmmss}")).toBe('2026y Saturday 12 September 194207');
    expect(fill('{taken}')).toBe('2026-09-12');
  });

  it('says undated rather than invent a part of a date', () => {
    expect(fill('{taken MMdd}', { taken: null, precision: 'span' })).toBe('undated');
    const year = { taken: parseWallClock('2026-01-01T00:00:00'), precision: 'year' as const };
    expect(fill('{taken yyyy}', year)).toBe('2026');
    expect(fill('{taken yyyy-MM}', year)).toBe('undated');
  });

  it.each(['{counter 00x}', '{unknown}', '{taken QQ}', 'open {name', '{counter 1 by moon}'])(
    'refuses “%s” in words',
    (pattern) => {
      expect(() => parsePattern(pattern)).toThrow(/./);
      expect(() => parsePattern(pattern)).toThrowError(
        expect.objectContaining({ code: 'pattern-unclear' }),
      );
    },
  );

  it('writes what it reads', () => {
    const piece = fc.oneof(
      fc
        .string({ minLength: 1 })
        .filter((text) => !text.includes('}'))
        .map((text) => text.replaceAll('{', '{{')),
      fc.constantFrom(
        '{name}',
        '{camera}',
        '{taken yyyyMMdd}',
        '{counter 0042 by day}',
        '{counter 7}',
        '{number}',
      ),
    );
    fc.assert(
      fc.property(fc.array(piece), (parts) => {
        const pieces = parsePattern(parts.join(''));
        expect(parsePattern(formatPattern(pieces))).toEqual(pieces);
      }),
    );
  });

  it('counts within the scope it states', () => {
    const counters = new Map<string, number>();
    const pieces = parsePattern('{taken MMdd}-{counter 001 by day}');
    const days = [
      '2026-09-12T10:00:00',
      '2026-09-12T11:00:00',
      '2026-09-13T09:00:00',
      '2026-09-12T12:00:00',
    ];
    const fills = filler(pieces, { counters, now: 0, zone: 'UTC' });
    const names = days.map((day) => fills(subject({ taken: parseWallClock(day) })));
    expect(names).toEqual(['0912-001', '0912-002', '0913-001', '0912-003']);
  });

  it('keeps slashes and control characters of values out of names', () => {
    expect(fill('{title}', { values: { title: 'a/b\\c:d\n“e”' } })).toBe('a-b-c-d-“e”');
  });

  it.each([
    ['', 'empty'],
    ['.jpg', 'dot'],
    ['con.jpg', 'reserved'],
    ['a/b', 'cannot hold'],
    ['x'.repeat(300), 'bytes'],
    ['name ', 'space'],
  ])('names what is wrong with “%s”', (name, words) => {
    expect(nameProblem(name)).toContain(words);
  });

  it('finds trouble in folders', () => {
    expect(pathProblem('Wind Week/2026')).toBeNull();
    expect(pathProblem('a//b')).toContain('empty');
    expect(pathProblem('a/../b')).not.toBeNull();
  });

  it('makes any name from elsewhere safe', () => {
    fc.assert(
      fc.property(fc.string({ maxLength: 400, unit: 'binary' }), (name) => {
        expect(nameProblem(safeName(name))).toBeNull();
      }),
    );
  });
});

const names = fc.array(
  fc.constantFrom('a.jpg', 'A.JPG', 'b.jpg', 'é.jpg', 'e\u0301.jpg', 'c.png'),
  { minLength: 1, maxLength: 12 },
);

describe('collisions', () => {
  it('never gives one name twice in a folder when told to tell them apart', () => {
    fc.assert(
      fc.property(
        names,
        fc.uniqueArray(fc.constantFrom('x.jpg', 'x-2.jpg', 'X-3.JPG')),
        (given, held) => {
          const subjects = given.map((name, index): RenameSubject => ({
            ...subject({ name }),
            id: String(index),
          }));
          const lines = previewRename(
            'x',
            subjects,
            new Map([['Wind Week', new Set(held.map(nameKey))]]),
            { clash: 'number', extension: 'lower' },
          );
          const after = lines.map((line) => nameKey(line.after));
          expect(new Set(after).size).toBe(after.length);
          expect(after.some((name) => held.map(nameKey).includes(name))).toBe(false);
          expect(lines.every((line) => line.problem === null)).toBe(true);
        },
      ),
    );
  });

  it('marks them where it was not told to', () => {
    const subjects = [1, 2].map((id): RenameSubject => ({ ...subject(), id: String(id) }));
    const lines = previewRename('same', subjects, new Map(), {
      clash: 'refuse',
      extension: 'lower',
    });
    expect(lines.map((line) => line.problem)).toEqual([
      'another of these would have this name',
      'another of these would have this name',
    ]);
  });

  it('lets names trade places within a batch', () => {
    const subjects = ['a.jpg', 'b.jpg'].map((name): RenameSubject => ({
      ...subject({ name, values: { title: name === 'a.jpg' ? 'b' : 'a' } }),
      id: name,
    }));
    const lines = previewRename('{title}', subjects, new Map(), {
      clash: 'refuse',
      extension: 'lower',
    });
    expect(lines.map(({ after, problem }) => [after, problem])).toEqual([
      ['b.jpg', null],
      ['a.jpg', null],
    ]);
  });

  it('finds the first free number', () => {
    const taken = new Set(['a.jpg', 'a-2.jpg']);
    expect(apartFrom('a.jpg', (key) => taken.has(key))).toBe('a-3.jpg');
  });
});

describe('intake plans', () => {
  const patterns = {
    filing: 'Wind Week/{taken yyyy-MM-dd}/{camera}',
    naming: 'SLT-{counter 0001 by folder}',
  };

  it('files by date and camera, counting in each folder', () => {
    const targets = planTargets(
      patterns,
      [subject(), subject({ taken: parseWallClock('2026-09-13T08:00:00') }), subject()],
      () => new Set(),
    );
    expect(targets.map(({ folder, name }) => `${folder}/${name}`)).toEqual([
      'Wind Week/2026-09-12/Marlow Heron 5/SLT-0001.jpg',
      'Wind Week/2026-09-13/Marlow Heron 5/SLT-0001.jpg',
      'Wind Week/2026-09-12/Marlow Heron 5/SLT-0002.jpg',
    ]);
  });

  it('tells apart from names that are there', () => {
    const [target] = planTargets(
      { filing: '', naming: '{name}' },
      [subject()],
      () => new Set(['hrn_4417.jpg']),
    );
    expect(target).toEqual({ folder: '', name: 'HRN_4417-2.jpg', problem: null });
  });

  it('keeps a camera name with a slash inside its one folder', () => {
    const [target] = planTargets(
      { filing: '{camera}', naming: '{name}' },
      [subject({ values: { camera: '../../etc' } })],
      () => new Set(),
    );
    expect(target!.folder.includes('/')).toBe(false);
    expect(target!.problem).not.toBeNull();
  });
});

describe('what goes along with a rename', () => {
  const named = (name: string, followers: string[] = [], title = ''): RenameSubject => ({
    ...subject({ name, values: { title } }),
    id: name,
    folder: 'f',
    followers: followers.map((one) => ({ id: one, name: one, folder: 'f' })),
  });
  const held = (...names: string[]) => new Map([['f', new Set(names)]]);
  const look = (subjects: RenameSubject[], there: string[] = [], tellApart = false) =>
    previewRename('{title}', subjects, held(...there), {
      clash: tellApart ? 'number' : 'refuse',
      extension: 'lower',
    }).map(({ after, followers, problem }) => [after, followers.map((one) => one.after), problem]);

  it('is shown: sidecars by whole name and by stem, companions too', () => {
    const files = ['a.dng.xmp', 'a.xmp', 'a.jpg', 'other.txt'];
    expect(look([named('a.dng', files, 'New')])).toEqual([
      ['New.dng', ['New.dng.xmp', 'New.xmp', 'New.jpg'], null],
    ]);
  });

  it('is part of the check: what is there, what others get, a stranger’s sidecar', () => {
    expect(look([named('a.dng', ['a.xmp'], 'b')], ['b.xmp'])[0]![2]).toContain('b.xmp');
    expect(look([named('a.jpg', [], 'b')], ['b.jpg.xmp'])[0]![2]).toContain('of another file');
    const two = [named('a.dng', ['a.xmp'], 'n'), named('b.nef', ['b.xmp'], 'n')];
    expect(look(two)[1]![2]).toContain('goes along');
    expect(look(two, [], true)[1]).toEqual(['n-2.nef', ['n-2.xmp'], null]);
    expect(look([named('b.jpg', [], 'b')], ['b.jpg.xmp'])[0]).toEqual(['b.jpg', [], null]);
  });
});
