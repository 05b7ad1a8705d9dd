import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { EMPTY_RECORD } from '#core/records/fields';
import { tagsFromRecord } from '#core/records/writing';
import { datesBy, type Dated } from '#core/records/dates';
import { precisionOf, takenFromText } from '#core/records/taken';
import { edtfFromWords, isApproximate, shownDate, wordsOfDate } from '#core/text/dateWords';

describe('a date in words', () => {
  it.each([
    ['12 September 2026', '2026-09-12'],
    ['Sept. 12th, 2026', '2026-09-12'],
    ['September 2026', '2026-09'],
    ['about 1974', '1974~'],
    ['c. 1974', '1974~'],
    ['perhaps summer 1962', '1962-22?'],
    ['probably about May 1990', '1990-05%'],
    ['the 1970s', '197X'],
    ['some year of the 1900s', '19XX'],
    ['some day of September 2026', '2026-09-XX'],
    ['a day in 2026', '2026-XX-XX'],
    ['between 2019 and 2021', '2019/2021'],
    ['from May 2019 to about 2021', '2019-05/2021~'],
    ['Fall of 1988', '1988-23'],
  ])('%s is %s', (words, edtf) => {
    expect(edtfFromWords(words)).toBe(edtf);
    expect(takenFromText(words)?.edtf).toBe(edtf);
  });
  it.each([
    '',
    'someday',
    'before 1990',
    'about',
    '31 February 2020',
    'the 70s',
    `${'a'.repeat(5000)} 1970`,
  ])('“%s” is none', (words) => expect(takenFromText(words)).toBeNull());
  it('is read back from what it says', () => {
    const year = fc.integer({ min: 1000, max: 9999 }).map(String);
    const two = (most: number) =>
      fc.integer({ min: 1, max: most }).map((value) => String(value).padStart(2, '0'));
    const date = fc.oneof(
      year,
      fc.tuple(year, two(12)).map((parts) => parts.join('-')),
      fc.tuple(year, two(12), two(28)).map((parts) => parts.join('-')),
      fc.tuple(year, fc.constantFrom('21', '22', '23', '24')).map((parts) => parts.join('-')),
    );
    const qualified = fc
      .tuple(date, fc.constantFrom('', '~', '?', '%'))
      .map((parts) => parts.join(''));
    const known = fc.oneof(
      year.map((text) => `${text.slice(0, 3)}X`),
      year.map((text) => `${text.slice(0, 2)}XX`),
      year.map((text) => `${text}-XX`),
      year.map((text) => `${text}-XX-XX`),
      fc.tuple(year, two(12)).map(([own, month]) => `${own}-${month}-XX`),
    );
    const one = fc.oneof(qualified, known);
    const span = fc.tuple(qualified, qualified).map((parts) => parts.join('/'));
    fc.assert(
      fc.property(fc.oneof(one, span), (edtf) => {
        expect(edtfFromWords(wordsOfDate(edtf))).toBe(edtf);
      }),
    );
  });
  it('is marked where it is approximate, and only there', () => {
    expect(['1974', '2026-09', '2026-09-12', '2026-09-12T19:42:00'].filter(isApproximate)).toEqual(
      [],
    );
    expect(shownDate('1974~')).toBe('≈ about 1974');
    expect(shownDate('1962-22')).toBe('≈ summer 1962');
    expect(shownDate('2026-09-12T19:42:07+01:00')).toBe('12 September 2026, 19:42:07 +01:00');
  });
  it('says into a file what is certain of it, and no more', () => {
    const said = (words: string): unknown =>
      Object.values(
        tagsFromRecord({ ...EMPTY_RECORD, taken: takenFromText(words) }, ['taken'], {
          exif: false,
          iim: false,
        }),
      )[0];
    expect(said('summer 1962')).toBe('1962');
    expect(said('about May 1962')).toBe('1962-05');
    expect(said('some day of May 1962')).toBe('1962-05');
    // No year is certain of these.
    expect(said('the 1970s')).toBeNull();
    expect(said('from 1974 to 1975')).toBeNull();
  });
});

describe('a known order', () => {
  const dated = (taken: string): Dated => ({
    ...{ id: '', name: '', original: '', folder: '' },
    taken: taken ? takenFromText(taken) : null,
  });
  it('is spread over what is known of a day', () => {
    const days = [dated('1974-08-12'), dated('1974-08-12'), dated('1974-08-12')];
    const lines = datesBy({ act: 'spread', from: '', every: null }, days);
    expect(lines.map(({ after }) => after)).toEqual([
      ...['1974-08-12 04:00:00', '1974-08-12 12:00:00', '1974-08-12 20:00:00'],
    ]);
  });
  it('lies within a month that is named; what is known to the second stays', () => {
    const items = [dated(''), dated('1974'), dated('1974-08-12 10:00')];
    const lines = datesBy({ act: 'spread', from: 'about August 1974', every: null }, items);
    expect(lines.every(({ after }) => after.startsWith('1974-08-'))).toBe(true);
    expect([...lines].sort((a, b) => (a.after < b.after ? -1 : 1))).toEqual(lines);
    expect(
      datesBy({ act: 'spread', from: '', every: null }, items).map(({ problem }) => problem),
    ).toEqual([...['it has no date', null, 'its time is known already']]);
  });
  it('of a season lies in its months', () => {
    const ends = (text: string) => {
      const { from, to } = takenFromText(text)!;
      return [from.slice(0, 10), to.slice(0, 10)];
    };
    expect(ends('spring 1962')).toEqual(['1962-03-01', '1962-05-31']);
    expect(ends('about summer 1974')).toEqual(['1974-06-01', '1974-08-31']);
    expect(ends('winter 1999')).toEqual(['1999-12-01', '2000-02-29']);
    expect(ends('from summer 1974 to autumn 1975')).toEqual(['1974-06-01', '1975-11-30']);
    expect(takenFromText('from summer 1974 to autumn 1975')!.edtf).toBe('1974-22/1975-23');
  });
  it('of a season or a decade is a span, not a month', () => {
    expect(precisionOf(takenFromText('1962-22')!)).toBe('span');
    expect(precisionOf(takenFromText('197X')!)).toBe('span');
  });
});
