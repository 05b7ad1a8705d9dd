import fc from 'fast-check';
import { DateTime } from 'luxon';
import { describe, expect, it } from 'vitest';
import { safeName } from '#core/intake/plan';
import {
  embeds,
  extensionOf,
  formatOf,
  isClutter,
  isNamedOtherwise,
  isSidecar,
  KINDS,
} from '#core/kinds/kinds';
import { nameKey, nameProblem, splitName, withExtension } from '#core/naming/names';
import { withinWords } from '#core/query/words';
import { formatWallClock, parseWallClock, takenFromText } from '#core/records/taken';
import { ldmlFormatter } from '#core/text/ldml';
import {
  counted,
  formatBytes,
  formatCount,
  formatDuration,
  formatEta,
  listed,
} from '#core/text/quantities';
import { searchWords } from '#core/text/words';
import { dayHeading, hours, moment } from '../../src/lib/ui/wall/dates';

const head = (...parts: (number | string)[]): Uint8Array =>
  Uint8Array.from(
    parts.flatMap((part) =>
      typeof part === 'string' ? [...part].map((letter) => letter.charCodeAt(0)) : [part],
    ),
  );
const iso = (brand: string): Uint8Array => head(0, 0, 0, 24, `ftyp${brand}`, 0, 0, 0, 0);
const tiff = head('II*\0', 8, 0, 0, 0);

describe('formats by their first bytes', () => {
  it('are told from what the name says', () => {
    expect(isNamedOtherwise('png', 'kite.jpg')).toBe(true);
    expect(isNamedOtherwise('jpeg', 'kite.JPG')).toBe(false);
    expect(isNamedOtherwise('raw', 'kite.nef')).toBe(false);
    expect(isNamedOtherwise('other', 'anything')).toBe(false);
  });

  it.each<[string, Uint8Array, string, string]>([
    ['JPEG', head(0xff, 0xd8, 0xff, 0xe0), 'a.jpg', 'photo'],
    ['PNG', head(0x89, 'PNG', 0x0d, 0x0a, 0x1a, 0x0a), 'a.png', 'photo'],
    ['GIF', head('GIF89a'), 'a.gif', 'photo'],
    ['WebP', head('RIFF', 0, 0, 0, 0, 'WEBPVP8 '), 'a.webp', 'photo'],
    ['AVIF', iso('avif'), 'a.avif', 'photo'],
    ['AVIF', iso('avis'), 'a.avif', 'photo'],
    ['HEIC', iso('heix'), 'a.heic', 'photo'],
    ['HEIC', iso('mif1'), 'a.heif', 'photo'],
    ['TIFF', tiff, 'a.tif', 'photo'],
    ['TIFF', head('MM\0*', 0, 0, 0, 8), 'a.tiff', 'photo'],
    ['TIFF', head('II+\0', 8, 0), 'big.tif', 'photo'],
    ...['dng', 'nef', 'arw', 'cr2', 'orf', 'rw2', 'pef', 'srw', '3fr', 'iiq'].map(
      (extension): [string, Uint8Array, string, string] => [
        'Camera raw',
        tiff,
        `A.${extension.toUpperCase()}`,
        'photo',
      ],
    ),
    ['Camera raw', head('IIRO', 8, 0), 'a.orf', 'photo'],
    ['Camera raw', iso('crx '), 'a.cr3', 'photo'],
    ['Camera raw', head('FUJIFILMCCD-RAW'), 'a.raf', 'photo'],
    ['Camera raw', head('FOVb'), 'a.x3f', 'photo'],
    ['JPEG XL', head(0xff, 0x0a), 'a.jxl', 'photo'],
    ['JPEG XL', head(0, 0, 0, 12, 'JXL '), 'a.jxl', 'photo'],
    ['JPEG 2000', head(0, 0, 0, 12, 'jP  '), 'a.jp2', 'photo'],
    ['SVG', head('<svg xmlns="x">'), 'a.svg', 'vector'],
    ['SVG', head('<?xml version="1.0"?>\n<!-- a --><svg\n'), 'a', 'vector'],
    ['EPS', head('%!PS-Adobe-3.0 EPSF-3.0'), 'a.eps', 'vector'],
    ['EPS', head(0xc5, 0xd0, 0xd3, 0xc6, 30), 'a.eps', 'vector'],
    ['PostScript', head('%!PS-Adobe-3.0\n'), 'a.ps', 'vector'],
    ['JPEG 2000', head(0xff, 0x4f, 0xff, 0x51), 'a.j2k', 'photo'],
    ['PDF', head('%PDF-1.7'), 'a.pdf', 'document'],
    ['MP4', iso('isom'), 'a.mp4', 'footage'],
    ['MPEG-4 audio', iso('M4A '), 'a.m4a', 'sound'],
    ['MPEG-4 audio', iso('isom'), 'a.m4a', 'sound'],
    ['QuickTime', iso('qt  '), 'a.mov', 'footage'],
    ['QuickTime', head(0, 0, 0, 8, 'moov'), 'old.mov', 'footage'],
    ['WebM', head(0x1a, 0x45, 0xdf, 0xa3, '....webm'), 'a.webm', 'footage'],
    ['Matroska', head(0x1a, 0x45, 0xdf, 0xa3, '....matroska'), 'a.mkv', 'footage'],
    ['AVI', head('RIFF', 0, 0, 0, 0, 'AVI '), 'a.avi', 'footage'],
    ['MXF', head(0x06, 0x0e, 0x2b, 0x34, 2), 'a.mxf', 'footage'],
    ['MPEG', head(0, 0, 1, 0xba), 'a.mpg', 'footage'],
    ['WAV', head('RF64', 0xff, 0xff, 0xff, 0xff, 'WAVE'), 'long.wav', 'sound'],
    ['AIFF', head('FORM', 0, 0, 0, 0, 'AIFC'), 'a.aif', 'sound'],
    ['FLAC', head('fLaC'), 'a.flac', 'sound'],
    ['Ogg', head('OggS'), 'a.ogg', 'sound'],
    ['MP3', head('ID3', 4), 'a.mp3', 'sound'],
    ['MP3', head(0xff, 0xfb, 0x90), 'a.mp3', 'sound'],
    ['TrueType', head(0, 1, 0, 0, 0), 'a.ttf', 'font'],
    ['OpenType', head('OTTO'), 'a.otf', 'font'],
    ['WOFF', head('wOFF'), 'a.woff', 'font'],
    ['WOFF2', head('wOF2'), 'a.woff2', 'font'],
    ['Text', head('a,b\n1,2'), 'a.csv', 'document'],
    ['HTML', head('<!doctype html>'), 'index.html', 'document'],
    ['ZIP', head('PK', 3, 4), 'a.zip', 'other'],
    ['Word processing', head('PK', 3, 4), 'a.docx', 'document'],
    [
      'OpenDocument text',
      head('PK', 3, 4, '.'.repeat(26), 'mimetypeapplication/vnd.oasis.opendocument.textPK'),
      'named.zip',
      'document',
    ],
    ['SubRip subtitles', head('1\r\n00:00:01,000 --> 00:00:02,000\r\n'), 'a.txt', 'document'],
    ['WebVTT subtitles', head('WEBVTT\n'), 'a.vtt', 'document'],
    ['Rich text', head('{\\rtf1'), 'a.rtf', 'document'],
    ['3D glTF binary', head('glTF', 2), 'a.glb', 'other'],
    ['Text', head(0xff, 0xfe, 'k', 0), 'notes.txt', 'document'],
    ['File', head(0, 1, 2, 3), 'notes.txt', 'other'],
    ['File', head(0, 1, 2, 3), 'a.bin', 'other'],
    ['File', head(), 'nothing', 'other'],
  ])('%s %#', (format, bytes, name, kind) => {
    expect(formatOf(bytes, name)).toMatchObject({ name: format, kind });
  });

  it('never throw, whatever the bytes and the name', () => {
    fc.assert(
      fc.property(
        fc.uint8Array({ maxLength: 64 }),
        fc.string({ unit: 'grapheme', maxLength: 40 }),
        (bytes, name) => {
          expect(KINDS).toContain(formatOf(bytes, name).kind);
        },
      ),
      { numRuns: 500 },
    );
  });

  it('know what never becomes an item', () => {
    for (const name of ['.DS_Store', 'Thumbs.db', '._a.jpg', '.mindful-1.part', 'ascmhl'])
      expect([name, isClutter(name)]).toEqual([name, true]);
    for (const name of ['a.jpg', '.hidden.jpg', 'mindful.jpg', 'thumbs.jpg'])
      expect([name, isClutter(name)]).toEqual([name, false]);
    expect([isSidecar('a.XMP'), isSidecar('a.jpg'), isSidecar('xmp')]).toEqual([
      true,
      false,
      false,
    ]);
    expect(
      ['image/jpeg', 'application/pdf', 'video/mp4', 'image/heic', 'image/gif'].map((type) =>
        embeds(type),
      ),
    ).toEqual(['exif', 'pdf', 'xmp', 'exif', null]);
    expect(['a.JPG', '.profile', 'a.', 'none', 'a.b.c'].map(extensionOf)).toEqual([
      'jpg',
      '',
      '',
      '',
      'c',
    ]);
  });
});

describe('names from elsewhere', () => {
  const name = fc.string({ unit: 'grapheme', minLength: 1, maxLength: 300 });

  it('made safe are names every disk takes, and stay as they are once safe', () => {
    fc.assert(
      fc.property(name, (one) => {
        const safe = safeName(one);
        expect(nameProblem(safe)).toBeNull();
        expect(safeName(safe)).toBe(safe);
      }),
      { numRuns: 400 },
    );
    for (const wild of [
      '..',
      '.',
      'con',
      'NUL.jpg',
      'a/b',
      'x'.repeat(400),
      ' .jpg',
      'a\0b',
      '-',
      '. !',
      '🪁'.repeat(80),
    ])
      expect(nameProblem(safeName(wild))).toBeNull();
  });

  it('are put together from what they were split into', () => {
    fc.assert(
      fc.property(name, (one) => {
        const { stem, extension } = splitName(one);
        expect(extension ? `${stem}.${extension}` : stem).toBe(one);
      }),
    );
    expect(withExtension('SLT-1', 'HRN_1.JPG')).toBe('SLT-1.jpg');
    expect(withExtension('SLT-1', 'README')).toBe('SLT-1');
  });

  it('are one where only case or composition differ', () => {
    expect(nameKey('E\u0301TE\u0301.JPG')).toBe(nameKey('été.jpg'));
    expect(nameKey('a.jpg')).not.toBe(nameKey('b.jpg'));
  });
});

describe('dates in words', () => {
  const day = fc
    .date({ min: new Date('1900-01-01'), max: new Date('2100-01-01'), noInvalidDate: true })
    .map((date) => date.toISOString().slice(0, 23));

  it('are formatted as another library formats them (UTS #35)', () => {
    const patterns = [
      'yyyy-MM-dd',
      'yy',
      'MMMM d',
      'EEEE',
      'HHmmss',
      'SSS',
      'd.M.yyyy',
      "'day' dd",
    ];
    fc.assert(
      fc.property(day, fc.constantFrom(...patterns), (text, pattern) => {
        const time = parseWallClock(text)!;
        const other = DateTime.fromISO(text, { zone: 'utc' }).setLocale('en-GB');
        expect(ldmlFormatter(pattern)(time)).toBe(other.toFormat(pattern));
      }),
    );
    fc.assert(
      fc.property(day, (text) => {
        expect(formatWallClock(parseWallClock(text)!)).toBe(text);
        expect(Number(ldmlFormatter('ww')(parseWallClock(text)!))).toBe(
          DateTime.fromISO(text, { zone: 'utc' }).weekNumber,
        );
      }),
    );
  });

  it('head the days of a wall', () => {
    expect(dayHeading('2026-09-12')).toBe('Saturday 12 September 2026');
    expect([dayHeading(null), dayHeading('')]).toEqual(['', 'Undated']);
    expect(dayHeading('2026-09')).toContain('September 2026');
    expect(hours('2026-09-12T18:02:11', '2026-09-12T20:11:00')).toBe('18:02–20:11');
    expect(hours('2026-09-12T20:11:00', '2026-09-12T18:02:11')).toBe('18:02–20:11');
    expect([hours(null, 'x'), hours('2026-09-12T18:02', '2026-09-12T18:02')]).toEqual([
      '',
      '18:02',
    ]);
    expect(moment('2026-09-12T19:42:07')).toContain('19:42');
    expect(moment(null)).toBe('');
  });

  it('say only as much as is known', () => {
    for (const text of ['2026', '2026-09', '2026-09-12', '2026-09-12/2026-09-14', '2026-09~'])
      expect(withinWords(text)).not.toMatch(/undefined|NaN|Invalid/);
    expect(takenFromText('2026-02-30')).toBeNull();
    expect(takenFromText('2024-02-29')).not.toBeNull();
  });
});

describe('quantities in words', () => {
  it('count, weigh and time', () => {
    expect([counted(1, 'item'), counted(2, 'item'), counted(0, 'item')]).toEqual([
      '1 item',
      '2 items',
      '0 items',
    ]);
    expect(counted(2, 'address', 'addresses')).toBe('2 addresses');
    expect(formatCount(1_234_567)).toBe('1,234,567');
    expect([999, 1000, 999_499, 1e6, 1.5e12, 5e15].map(formatBytes)).toEqual([
      '999 B',
      '1 kB',
      '999 kB',
      '1 MB',
      '1.5 TB',
      '5,000 TB',
    ]);
    expect([0, 42, 60, 3599.6, 3727].map(formatDuration)).toEqual([
      '0:00',
      '0:42',
      '1:00',
      '1:00:00',
      '1:02:07',
    ]);
    expect([10, 90, 5400, 9000].map(formatEta)).toEqual([
      'under a minute',
      'about 2 min',
      'about 1.5 h',
      'about 2.5 h',
    ]);
    expect([listed([]), listed(['a']), listed(['a', 'b']), listed(['a', 'b', 'c'], 'or')]).toEqual([
      '',
      'a',
      'a and b',
      'a, b or c',
    ]);
  });

  it('never show more than three figures of bytes below a terabyte’s thousand', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 999_000_000_000 }), (bytes) => {
        const [number = ''] = formatBytes(bytes).split(' ');
        expect(number.replace(/[.,]/g, '').length).toBeLessThanOrEqual(3);
      }),
    );
  });
});

describe('words for searching', () => {
  it('are lower case letters and digits, each once, whatever they are cut from', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme', maxLength: 80 }), (text) => {
        const words = searchWords(text);
        expect(new Set(words).size).toBe(words.length);
        for (const word of words) expect(word).toMatch(/^[\p{L}\p{N}]+$/u);
        expect(searchWords(words.join(' '))).toEqual(words);
      }),
    );
    expect(searchWords('Ærøskøbing, naïve & Straße №7')).toEqual(
      expect.arrayContaining(['naive', 'straße']),
    );
  });
});
