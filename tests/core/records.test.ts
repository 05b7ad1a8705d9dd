import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { IIM_DIGEST, IPTC_OLDER } from '#core/fields/namespaces';
import { EMPTY_RECORD, FIELD_KEYS, type RecordValues } from '#core/records/fields';
import { recordFromTags } from '#core/records/mapping';
import { tagsFromRecord } from '#core/records/writing';
import { cutBytes } from '#core/text/bytes';
import {
  formatWallClock,
  parseOffset,
  formatOffset,
  parseWallClock,
  precisionOf,
  takenAt,
  takenFromExif,
  takenFromText,
} from '#core/records/taken';
import { technicalFromTags } from '#core/records/technical';

describe('time taken', () => {
  it.each([
    ['2026:09:12 19:42:07', '5', '+01:00', '2026-09-12T19:42:07+01:00'],
    ['2026:09:12 19:42:07.25', '', '', '2026-09-12T19:42:07'],
    ['2026-09-12T19:42:07Z', '', '', '2026-09-12T19:42:07+00:00'],
  ])('reads %s', (date, sub, offset, edtf) =>
    expect(takenFromExif(date, sub, offset)?.edtf).toBe(edtf),
  );

  it.each([
    '0000:00:00 00:00:00',
    '    :  :     :  :  ',
    '2026:02:30 10:00:00',
    '2026:13:01 10:00:00',
    '',
    'yesterday',
    '2026:01:01 24:00:00',
  ])('takes “%s” for unknown', (date) => expect(takenFromExif(date)).toBeNull());

  it.each([
    ['2026', 'year', '2026-01-01T00:00:00.000', '2026-12-31T23:59:59.999'],
    ['2026-09', 'month', '2026-09-01T00:00:00.000', '2026-09-30T23:59:59.999'],
    ['2026-09-12', 'day', '2026-09-12T00:00:00.000', '2026-09-12T23:59:59.999'],
    ['2026-09-12 19:42', 'moment', '2026-09-12T19:42:00.000', '2026-09-12T19:42:00.000'],
    ['2026-09-01/2026-09-12', 'span', '2026-09-01T00:00:00.000', '2026-09-12T23:59:59.999'],
  ])('knows how much “%s” says', (text, precision, from, to) => {
    const taken = takenFromText(text)!;
    expect([precisionOf(taken), taken.from, taken.to]).toEqual([precision, from, to]);
  });

  it('refuses what is no date', () => {
    for (const text of ['', 'soon', '2026-13', '12/09/2026 x', '2026-09-12 25:00'])
      expect(takenFromText(text)).toBeNull();
  });

  it('round-trips wall clocks and offsets', () => {
    fc.assert(
      fc.property(
        fc.date({ min: new Date('1850-01-01'), max: new Date('2200-01-01'), noInvalidDate: true }),
        fc.integer({ min: -840, max: 840 }),
        (date, offset) => {
          const text = date.toISOString().slice(0, 23);
          expect(formatWallClock(parseWallClock(text)!)).toBe(text);
          expect(parseOffset(formatOffset(offset))).toBe(offset);
        },
      ),
    );
  });
});

const text = fc
  .string({ maxLength: 60, unit: 'grapheme' })
  .map((value) => value.replaceAll('\0', '').replaceAll(';', ',').trim());
const records: fc.Arbitrary<RecordValues> = fc
  .record({
    title: text,
    caption: text,
    creator: fc.uniqueArray(text.filter(Boolean), { maxLength: 3 }),
    creditLine: text,
    copyrightNotice: text,
    terms: fc.uniqueArray(text.filter(Boolean), { maxLength: 4 }),
    rating: fc.integer({ min: -1, max: 5 }),
    stage: text,
    taken: fc.constantFrom(
      null,
      takenAt(parseWallClock('2026-09-12T19:42:07.250')!, 60),
      takenFromText('2026-09')!,
    ),
  })
  .map((values) => ({ ...EMPTY_RECORD, ...values }));

describe('mapping to Exif, IIM and XMP', () => {
  it('reads back the record it writes, in an embedding file and in a sidecar', () => {
    fc.assert(
      fc.property(
        records,
        fc.constantFrom({ exif: true, iim: false }, { exif: false, iim: false }),
        (record, target) => {
          const tags = tagsFromRecord(record, FIELD_KEYS, target);
          const found = recordFromTags(
            Object.fromEntries(Object.entries(tags).filter(([, value]) => value !== null)),
          );
          expect({ ...found, taken: found.taken?.from ?? null }).toEqual({
            ...record,
            taken: record.taken?.from ?? null,
          });
        },
      ),
    );
  });

  it('deletes what was emptied', () => {
    const tags = tagsFromRecord(EMPTY_RECORD, ['caption', 'terms', 'taken'], {
      exif: true,
      iim: false,
    });
    expect(tags).toEqual({
      'XMP-dc:Description': null,
      'IFD0:ImageDescription': null,
      'XMP-dc:Subject': null,
      [`${IPTC_OLDER}:DateCreated`]: null,
      'XMP-exif:DateTimeOriginal': null,
      'ExifIFD:DateTimeOriginal': null,
      'IFD0:DateTimeOriginal': null,
      'ExifIFD:SubSecTimeOriginal': null,
      'ExifIFD:OffsetTimeOriginal': null,
    });
  });

  it('writes no day into Exif where only a month is known', () => {
    const tags = tagsFromRecord({ ...EMPTY_RECORD, taken: takenFromText('2026-09') }, ['taken'], {
      exif: true,
      iim: true,
    });
    expect(tags[`${IPTC_OLDER}:DateCreated`]).toBe('2026-09');
    expect(tags['ExifIFD:DateTimeOriginal']).toBeNull();
    expect(tags['IPTC:DateCreated']).toBeNull();
  });

  it('updates IIM only where there is one, within its lengths, and renews its digest', () => {
    const record = { ...EMPTY_RECORD, creditLine: 'ü'.repeat(40) };
    expect(tagsFromRecord(record, ['creditLine'], { exif: true, iim: false })).toEqual({
      [`${IPTC_OLDER}:Credit`]: record.creditLine,
    });
    const tags = tagsFromRecord(record, ['creditLine'], { exif: true, iim: true });
    expect(tags['IPTC:Credit']).toEqual(['ü'.repeat(16)]);
    expect(tags[IIM_DIGEST]).toBe('new');
  });

  it('prefers IIM to XMP only where its digest shows a later change', () => {
    const tags = {
      'XMP-dc:Title': 'new',
      'IPTC:ObjectName': 'old',
      [IIM_DIGEST]: 'a',
      'File:CurrentIPTCDigest': 'a',
    };
    expect(recordFromTags(tags).title).toBe('new');
    expect(recordFromTags({ ...tags, 'File:CurrentIPTCDigest': 'b' }).title).toBe('old');
  });

  it('keeps the names of a list apart where Exif joins them', () => {
    expect(
      recordFromTags({
        'IFD0:Artist': 'Lund, Bea; Ines Harrow',
        'XMP-dc:Creator': ['Lund, Bea', 'Ines Harrow'],
      }).creator,
    ).toEqual(['Lund, Bea', 'Ines Harrow']);
    expect(
      recordFromTags({ 'IFD0:Artist': 'Changed since', 'XMP-dc:Creator': ['Before'] }).creator,
    ).toEqual(['Changed since']);
  });

  it('cuts by bytes without splitting a character', () => {
    fc.assert(
      fc.property(
        fc.string({ unit: 'binary' }),
        fc.integer({ min: 0, max: 30 }),
        (value, limit) => {
          const cut = cutBytes(value, limit);
          expect(new TextEncoder().encode(cut).length).toBeLessThanOrEqual(Math.max(limit, 0));
          expect(value.startsWith(cut)).toBe(true);
        },
      ),
    );
  });
});

describe('technical data', () => {
  it('does not say the maker twice and drops the position off the coast of nowhere', () => {
    expect(technicalFromTags({ 'IFD0:Make': 'Marlow', 'IFD0:Model': 'Heron 5' }).camera).toBe(
      'Marlow Heron 5',
    );
    expect(
      technicalFromTags({ 'IFD0:Make': 'OSKIN CORP.', 'IFD0:Model': 'Oskin Tern X' }).camera,
    ).toBe('Oskin Tern X');
    expect(
      technicalFromTags({ 'Composite:GPSLatitude': '0', 'Composite:GPSLongitude': '0' }),
    ).toEqual({});
    expect(
      technicalFromTags({ 'IFD0:XResolution': '118.11', 'IFD0:ResolutionUnit': '3' }).resolution,
    ).toBe(300);
  });
});
