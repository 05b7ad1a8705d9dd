import { describe, expect, it } from 'vitest';
import { datesBy, NO_TIME, parseAmount, type Dated, type DateWish } from '#core/records/dates';
import { takenFromText } from '#core/records/taken';

const one = (taken: string, name = 'a.jpg', folder = ''): Dated => ({
  ...{ id: 'x', name, original: name, folder },
  taken: taken ? takenFromText(taken) : null,
});
const by = (wish: DateWish, ...items: Dated[]): string[] =>
  datesBy(wish, items).map(({ after, problem }) => problem ?? after);
const later = (text: string): DateWish => ({ act: 'shift', amount: parseAmount(text)! });

describe('dates as they are typed', () => {
  it('name days there are, within the years there are, in zones there are; all else is refused', () => {
    for (const text of [
      ...['29 February 2003', '2003-02-29', '2003-02-29/2003-03-04', '[2003-02-29,2004]'],
      ...['1985/..', '../1985', '1985/', '[..1984]', '-0009', '0000', 'XXXX-12', '10000', '1950S2'],
      ...['2004-06-11 10:00+24:00', '2004-06-11 10:00+05:99', '9'.repeat(300)],
    ])
      expect([text, takenFromText(text)]).toEqual([text, null]);
    expect(takenFromText('29 February 2004')).toMatchObject({ from: '2004-02-29T00:00:00.000' });
    expect(takenFromText('[1667,1668,1670..1672]')).toMatchObject({
      from: '1667-01-01T00:00:00.000',
      to: '1672-12-31T23:59:59.999',
    });
    expect(takenFromText('{1672,1668-03}')?.to).toBe('1672-12-31T23:59:59.999');
    expect(takenFromText('2004-06-11 10:00-15:30')?.offset).toBe(-930);
  });
});

describe('shifting dates', () => {
  it('moves moments over days, months and leap years, and keeps offset and fraction', () => {
    expect(
      by(
        later('+1h 30m'),
        one('2026-12-31 23:15'),
        one('2026-09-12 19:42:07.5+01:00'),
        one('2024-02-28 23:00'),
      ),
    ).toEqual(['2027-01-01 00:45:00', '2026-09-12 21:12:07.500+01:00', '2024-02-29 00:30:00']);
    expect(by(later('-1mo'), one('2026-03-31 10:00'))).toEqual(['2026-02-28 10:00:00']);
    expect(by(later('+1y'), one('2024-02-29 10:00'))).toEqual(['2025-02-28 10:00:00']);
  });

  it('keeps what is known: no day is made up, what is about stays about, spans are left', () => {
    expect(
      by(
        later('+1d'),
        one('2026-09-30'),
        one('2026-09~'),
        one('2026'),
        one('2026-09/2026-10'),
        one(''),
      ),
    ).toEqual([
      '2026-10-01',
      'its day is not known',
      'its day is not known',
      'a span; set it by itself',
      'it has no date',
    ]);
    expect(by(later('2mo'), one('2026-11~'), one('2026'))).toEqual([
      '2027-01~',
      'its month is not known',
    ]);
    expect(by(later('-10y'), one('1987?'))).toEqual(['1977?']);
    expect(by(later('5s'), one('2026-09-12'))).toEqual(['its time of day is not known']);
    expect(by(later('9000y'), one('2026-09-12'))).toEqual(['beyond the years 1 to 9999']);
  });

  it('is said in a few letters', () => {
    expect(parseAmount('1y 2mo')).toEqual({ ...NO_TIME, years: 1, months: 2 });
    expect(parseAmount('-1h 30m +5s')).toEqual({ ...NO_TIME, hours: -1, minutes: -30, seconds: 5 });
    for (const text of ['', 'tomorrow', '1h x', '5', '1 fortnight'])
      expect(parseAmount(text)).toBeNull();
  });
});

describe('time zones', () => {
  it('are set with the clock as it stands, or with the moment kept', () => {
    const items = [one('2026-09-12 19:42+01:00'), one('2026-09-12 19:42'), one('2026-09')];
    expect(by({ act: 'zone', offset: 120, keeps: 'clock' }, ...items)).toEqual([
      '2026-09-12 19:42:00+02:00',
      '2026-09-12 19:42:00+02:00',
      'its time of day is not known',
    ]);
    expect(by({ act: 'zone', offset: -300, keeps: 'moment' }, ...items)).toEqual([
      '2026-09-12 13:42:00-05:00',
      'its time zone is not known',
      'its time of day is not known',
    ]);
  });
});

describe('dates in names', () => {
  const read = (name: string, pattern = ''): string =>
    by({ act: 'read', from: 'name', pattern }, one('', name))[0]!;
  it('are read by the usual patterns, as exactly as they are told', () => {
    expect(read('IMG_20260912_194207.jpg')).toBe('2026-09-12 19:42:07');
    expect(read('scan 2026-09-12 b.tif')).toBe('2026-09-12');
    expect(read('harbour 12.09.2026.jpg')).toBe('2026-09-12');
    expect(read('kites 1987-06.jpg')).toBe('1987-06');
    expect(read('DSC_1234.jpg')).toBe('no date in “DSC_1234.jpg”');
    expect(read('20261399.jpg')).toContain('no date');
    expect(read('120260912.jpg')).toContain('no date');
  });
  it('are read by a pattern of one’s own; one that makes no sense is refused', () => {
    expect(read('(12) 09+2026.jpg', '(dd) MM+yyyy')).toBe('2026-09-12');
    for (const pattern of ['dd', 'yyyy dd', 'yyyyMM HH', 'yyyy yyyy'])
      expect(() => read('x', pattern)).toThrow();
    expect(
      by({ act: 'read', from: 'folder', pattern: '' }, one('', 'a', '2026/2026-09-12 Opening')),
    ).toEqual(['2026-09-12']);
  });
});

describe('an order without times', () => {
  it('is spread over a day', () => {
    const items = [one(''), one('2026'), one('')];
    expect(by({ act: 'spread', from: '2026-09-12 23:59:30', every: 20 }, ...items)).toEqual([
      '2026-09-12 23:59:30',
      '2026-09-12 23:59:50',
      '2026-09-13 00:00:10',
    ]);
    expect(() => by({ act: 'spread', from: '2026-09', every: 20 }, ...items)).toThrow(
      'day and time',
    );
  });
});
