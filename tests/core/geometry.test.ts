import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { formatNumber, parseNumber } from '#core/catalogue/number';
import { formatOf } from '#core/kinds/kinds';
import { essencePicker } from '#core/likeness/jpeg';
import { ldmlFormatter } from '#core/text/ldml';
import { formatBytes, listed } from '#core/text/quantities';
import { searchWords } from '#core/text/words';
import { beside } from '#core/wall/beside';
import { justify, neighbour, rowsBetween } from '#core/wall/justify';
import { parseWallClock } from '#core/records/taken';

const OPTIONS = { width: 720, rowHeight: 150, gap: 8, heading: 34, label: 28 };
const aspects = fc.array(fc.double({ min: 0.1, max: 8, noNaN: true }), {
  minLength: 1,
  maxLength: 200,
});

describe('justified rows', () => {
  it('hold every tile once, in order, within the wall', () => {
    fc.assert(
      fc.property(aspects, fc.integer({ min: 1, max: 5 }), (list, groups) => {
        const size = Math.ceil(list.length / groups);
        const counts = Array.from({ length: groups }, (_, at) => ({
          count: Math.max(0, Math.min(size, list.length - at * size)),
        })).filter(({ count }) => count > 0);
        const layout = justify(list, counts, OPTIONS);
        expect(
          layout.rows.flatMap((row) =>
            Array.from({ length: row.to - row.from }, (_, step) => row.from + step),
          ),
        ).toEqual(list.map((_, at) => at));
        list.forEach((_, at) =>
          expect(layout.left[at]! + layout.width[at]!).toBeLessThanOrEqual(OPTIONS.width + 0.5),
        );
        for (let at = 1; at < layout.rows.length; at += 1)
          expect(layout.rows[at]!.top).toBeGreaterThanOrEqual(
            layout.rows[at - 1]!.top + layout.rows[at - 1]!.height + OPTIONS.label - 0.01,
          );
      }),
    );
  });

  it('fill full rows to the edge', () => {
    const layout = justify(Array(40).fill(1.5), [{ count: 40 }], OPTIONS);
    for (const row of layout.rows.slice(0, -1))
      expect(layout.left[row.to - 1]! + layout.width[row.to - 1]!).toBeCloseTo(OPTIONS.width, 2);
  });

  it('find the rows of a window as a plain search does', () => {
    fc.assert(
      fc.property(aspects, fc.integer({ min: -200, max: 9000 }), (list, top) => {
        const { rows } = justify(list, [{ count: list.length }], OPTIONS);
        const [from, to] = rowsBetween(rows, top, top + 600, OPTIONS.label);
        const plain = rows.flatMap((row, at) =>
          row.top + row.height + OPTIONS.label >= top && row.top <= top + 600 ? [at] : [],
        );
        expect(Array.from({ length: to - from }, (_, step) => from + step)).toEqual(plain);
      }),
    );
  });

  it('step up and back down to a neighbour', () => {
    const layout = justify(Array(30).fill(1.5), [{ count: 30 }], OPTIONS);
    expect(neighbour(layout, 0, -1)).toBe(0);
    expect(neighbour(layout, neighbour(layout, 7, 1), -1)).toBe(7);
  });
});

describe('essence of a JPEG', () => {
  const segment = (marker: number, body: number[]): number[] => [
    0xff,
    marker,
    ((body.length + 2) >> 8) & 255,
    (body.length + 2) & 255,
    ...body,
  ];
  const file = (metadata: number[], scan = [1, 2, 0xff, 0, 3, 0xff, 0xd0, 4]): Uint8Array =>
    Uint8Array.from([
      0xff,
      0xd8,
      ...metadata,
      ...segment(0xdb, [0, 1, 2]),
      ...segment(0xc0, [8, 0, 1, 0, 1, 1]),
      ...segment(0xda, [1, 1, 0]),
      ...scan,
      0xff,
      0xd9,
    ]);
  /** Given in pieces of a size. */
  const essence = (bytes: Uint8Array, piece = bytes.length): number[] | null => {
    const taken: number[] = [];
    const picker = essencePicker((some) => void taken.push(...some));
    for (let at = 0; at < bytes.length; at += piece) picker.push(bytes.subarray(at, at + piece));
    return picker.end() ? taken : null;
  };

  it('is the picture’s segments and its scan, to the byte', () => {
    const whole = [...file([])];
    expect(essence(file(segment(0xe1, [1, 2, 3])))).toEqual(whole.slice(2));
    // Fill bytes before a marker are no part of it; those within a scan are.
    expect(essence(file([0xff, 0xff]))).toEqual(whole.slice(2));
    const profile = segment(
      0xe2,
      [...'ICC_PROFILE\0x'].map((c) => c.charCodeAt(0)),
    );
    expect(essence(file(profile))).toEqual([...profile, ...whole.slice(2)]);
    expect(essence(file(segment(0xe2, [73, 67])))).toEqual(whole.slice(2));
    expect(essence(Uint8Array.of(0xff, 0xd8, 0xff, 0xd9))).toBeNull();
  });
  it('is the same in whatever pieces the file comes', () => {
    const parts = fc.array(
      fc.tuple(
        fc.constantFrom(0xe1, 0xe2, 0xee, 0xfe, 0xc4),
        fc.array(fc.constantFrom(0, 0xff, 0xd8, 0xd9, 73, 67), { maxLength: 20 }),
      ),
      { maxLength: 4 },
    );
    const scans = fc.array(fc.constantFrom([5], [0xff, 0], [0xff, 0xd3], [0xff, 0xff, 0]), {
      maxLength: 12,
    });
    fc.assert(
      fc.property(parts, scans, fc.integer({ min: 1, max: 9 }), (segments, scan, piece) => {
        const bytes = file(
          segments.flatMap(([marker, body]) => segment(marker, body)),
          scan.flat(),
        );
        const whole = essence(bytes);
        expect(whole).not.toBeNull();
        expect(essence(bytes, piece)).toEqual(whole);
      }),
    );
  });

  it('does not change with metadata', () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.tuple(
            fc.constantFrom(0xe1, 0xed, 0xfe, 0xe0),
            fc.array(fc.integer({ min: 0, max: 255 }), { maxLength: 50 }),
          ),
        ),
        (segments) => {
          expect(
            essence(file(segments.flatMap(([marker, body]) => segment(marker, body)))),
          ).toEqual(essence(file([])));
        },
      ),
    );
  });
  it('changes with the picture, its colour transform and its profile', () => {
    expect(essence(file([], [9, 9]))).not.toEqual(essence(file([])));
    expect(essence(file(segment(0xee, [1])))).not.toEqual(essence(file([])));
    expect(
      essence(
        file(
          segment(
            0xe2,
            [...'ICC_PROFILE\0x'].map((c) => c.charCodeAt(0)),
          ),
        ),
      ),
    ).not.toEqual(essence(file([])));
  });
  it('leaves out what follows the end of image, and refuses broken files', () => {
    const whole = file([]);
    expect(essence(Uint8Array.from([...whole, 7, 7, 7]))).toEqual(essence(whole));
    for (let cut = 1; cut < whole.length; cut += 1)
      expect(essence(whole.subarray(0, whole.length - cut))).toBeNull();
    fc.assert(fc.property(fc.uint8Array({ maxLength: 300 }), (bytes) => void essence(bytes, 7)));
  });
});

describe('formats', () => {
  const head = (...bytes: (number | string)[]): Uint8Array =>
    Uint8Array.from(
      bytes.flatMap((part) =>
        typeof part === 'string' ? [...part].map((c) => c.charCodeAt(0)) : [part],
      ),
    );
  it.each([
    [head(0xff, 0xd8, 0xff), 'lying.png', 'JPEG'],
    [head('II*\0', 8, 0, 0, 0), 'a.dng', 'Camera raw'],
    [head('II*\0', 8, 0, 0, 0), 'a.tif', 'TIFF'],
    [head(0, 0, 0, 24, 'ftypqt  '), 'a.mov', 'QuickTime'],
    [head(0, 0, 0, 24, 'ftypheic'), 'a.jpg', 'HEIC'],
    [head('<?xml version="1.0"?><svg xmlns='), 'a.txt', 'SVG'],
    [head('RIFF', 0, 0, 0, 0, 'WAVE'), 'a', 'WAV'],
    [head('hello'), 'a.txt', 'Text'],
    [head(0, 1, 2, 3), 'a.jpg', 'File'],
    [head(), 'empty.jpg', 'File'],
  ])('are told by their bytes', (bytes, name, format) =>
    expect(formatOf(bytes, name).name).toBe(format),
  );
});

describe('words and numbers', () => {
  it('round-trips catalogue numbers', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1900, max: 9999 }),
        fc.integer({ min: 1, max: 999_999 }),
        fc.integer({ min: 1, max: 99_999_999 }),
        (year, accession, item) => {
          expect(parseNumber(formatNumber({ year, accession, item }))).toEqual({
            year,
            accession,
            item,
          });
        },
      ),
    );
    expect(formatNumber({ year: 2026, accession: 14, item: 237 })).toBe('2026.014.0237');
    expect(parseNumber('2026.14.237')).toBeNull();
  });
  it('formats dates by LDML', () => {
    const time = parseWallClock('2026-01-04T05:06:07.089')!;
    expect(ldmlFormatter("yy MMM d 'o''clock' HH:mm:ss.SSS ww")(time)).toBe(
      "26 Jan 4 o'clock 05:06:07.089 01".replace("o'clock", 'oclock'),
    );
    expect(() => ldmlFormatter('QQ')).toThrow('QQ');
  });
  it('finds words without accents and punctuation', () =>
    expect(searchWords('LWW-0912_Café, CAFÉ')).toEqual(['lww', '0912', 'cafe']));
  it('speaks of sizes and lists', () => {
    expect([formatBytes(0), formatBytes(999), formatBytes(28.1e9)]).toEqual([
      '0 B',
      '999 B',
      '28.1 GB',
    ]);
    expect(listed(['a', 'b', 'c'])).toBe('a, b and c');
  });
});

describe('a peek', () => {
  const whole = { width: 980, height: 640 };
  const boxes = fc.record({
    left: fc.integer({ min: 0, max: 900 }),
    top: fc.integer({ min: 0, max: 560 }),
    width: fc.integer({ min: 40, max: 600 }),
    height: fc.integer({ min: 60, max: 420 }),
  });
  it('stays within the wall and never covers what it belongs to', () => {
    fc.assert(
      fc.property(boxes, fc.double({ min: 0.3, max: 4, noNaN: true }), (of, aspect) => {
        fc.pre(of.left + of.width <= whole.width && of.top + of.height <= whole.height);
        const box = beside(of, whole, aspect, 60);
        const apart =
          box.left + box.width <= of.left ||
          box.left >= of.left + of.width ||
          box.top + box.height <= of.top ||
          box.top >= of.top + of.height;
        expect(apart).toBe(true);
        expect(box.left + box.width).toBeLessThanOrEqual(whole.width);
        expect(box.top + box.height).toBeLessThanOrEqual(whole.height);
      }),
    );
  });
  it('takes the side that shows the picture largest', () => {
    const left = { left: 0, top: 100, width: 200, height: 150 };
    expect(beside(left, whole, 1.5, 60).left).toBeGreaterThan(200);
    expect(beside({ ...left, left: 780 }, whole, 1.5, 60).left).toBeLessThan(20);
    const wide = { left: 20, top: 20, width: 900, height: 150 };
    expect(beside(wide, whole, 3, 60).top).toBeGreaterThan(170);
  });
});
