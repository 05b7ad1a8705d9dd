import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { atOther, before, overlap, type Moment } from '#core/footage/moments';
import {
  lengthOf,
  movedPiece,
  placeAt,
  startsOf,
  thingsToKnow,
  trimmedPiece,
  usualRate,
  type CutPiece,
  type Fitting,
} from '#core/footage/sequence';
import { Levels, SILENT } from '#core/footage/levels';
import { blackStretches } from '#core/footage/black';
import { showing, showsOf } from '#core/query/clipsSpans';
import { formatQuery, parseQuery } from '#core/query/grammar';
import { countedUp } from '#core/text/numbered';

const cut = (from: number, to: number): CutPiece => ({ id: 'a', item: 'x', from, to });

describe('a rough sequence', () => {
  it('counts every piece in its own rate, and every frame lies in one of them', () => {
    expect(lengthOf(cut(0, 50), 50, 25)).toBe(25);
    expect(lengthOf(cut(10, 11), 120, 24)).toBe(1);
    expect(lengthOf({ id: 'b', item: null, seconds: 5 }, 1, 29.97)).toBe(150);
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 1, max: 500 }), { minLength: 1 }), (lengths) => {
        const starts = startsOf(lengths);
        expect(starts.at(-1)).toBe(lengths.reduce((sum, one) => sum + one, 0));
        for (const frame of [0, starts.at(-1)! - 1, Math.floor(starts.at(-1)! / 2)]) {
          const { at, into } = placeAt(starts, frame);
          expect(starts[at]! + into).toBe(frame);
          expect(into).toBeLessThan(lengths[at]!);
        }
        expect(placeAt(starts, 1e9)).toEqual({ at: lengths.length - 1, into: lengths.at(-1)! - 1 });
      }),
    );
    expect(placeAt([0], 7)).toEqual({ at: 0, into: 0 });
  });

  it('keeps every piece when one is moved, and a frame at least when one is trimmed', () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.integer(), { maxLength: 20 }),
        fc.integer({ min: -2, max: 22 }),
        fc.integer({ min: -5, max: 25 }),
        (pieces, from, to) => {
          const next = movedPiece(pieces, from, to);
          expect([...next].sort()).toEqual([...pieces].sort());
        },
      ),
    );
    expect(movedPiece(['a', 'b', 'c'], 0, 2)).toEqual(['b', 'c', 'a']);
    expect(trimmedPiece(cut(10, 20), 'from', 30, 100)).toMatchObject({ from: 19, to: 20 });
    expect(trimmedPiece(cut(10, 20), 'to', -30, 100)).toMatchObject({ from: 10, to: 11 });
    expect(trimmedPiece(cut(10, 20), 'to', 300, 100)).toMatchObject({ to: 100 });
    expect(trimmedPiece(cut(10, 20), 'from', -30, 100)).toMatchObject({ from: 0 });
  });

  it('says what does not fit, each once', () => {
    const one = (name: string, rest: Partial<Fitting> = {}): Fitting => ({
      ...{ name, rate: 25, aspect: 16 / 9, missing: null, beyond: 0 },
      ...rest,
    });
    const pieces = [
      one('Launch'),
      one('Crowd', { rate: 50 }),
      one('Crowd', { rate: 50 }),
      one('Old tape', { aspect: 4 / 3 }),
      one('Gone', { missing: 'has no file at the moment' }),
      one('Short', { beyond: 12 }),
      one('gap', { rate: null, aspect: null }),
    ];
    expect(thingsToKnow(pieces, 25)).toEqual([
      '“Crowd” is 50 fps, the sequence 25',
      '“Old tape” is of another proportion than most',
      '“Gone” has no file at the moment',
      '“Short” ends 12 frames before this piece does',
    ]);
    expect(thingsToKnow([one('Launch')], 25)).toEqual([]);
    expect([usualRate([50, 25, 25]), usualRate([])]).toEqual([25, 25]);
  });
});

describe('two clips of one moment', () => {
  const clip = (start: string | null, rest: Partial<Moment> = {}): Moment => ({
    ...{ rate: 25, start, taken: null, frames: 250 },
    ...rest,
  });

  it('lie to each other as their timecodes say, across midnight too', () => {
    expect(before(clip('10:00:00:00'), clip('10:00:04:00', { rate: 50 }))).toEqual({
      ...{ seconds: 4, by: 'timecode' },
    });
    expect(before(clip('23:59:58:00'), clip('00:00:01:00'))!.seconds).toBe(3);
    expect(before(clip(null, { taken: 1000 }), clip('10:00:00:00', { taken: 3500 }))).toEqual({
      ...{ seconds: 2.5, by: 'time taken' },
    });
    expect(before(clip(null), clip('10:00:00:00'))).toBeNull();
    expect([overlap(clip(null), clip(null), 9), overlap(clip(null), clip(null), 10)]).toEqual([
      true,
      false,
    ]);
    expect(overlap(clip(null), clip(null), -11)).toBe(false);
  });

  it('share what both have, in the frames of each', () => {
    const [one, other] = [clip(null), clip(null, { rate: 50, frames: 300 })];
    expect(atOther({ from: 100, to: 150 }, one, other, 2)).toEqual({ from: 100, to: 200 });
    expect(atOther({ from: 0, to: 100 }, one, other, 2)).toEqual({ from: 0, to: 100 });
    expect(atOther({ from: 0, to: 50 }, one, other, 2)).toBeNull();
    expect(atOther({ from: 240, to: 250 }, one, other, 0)).toBeNull();
    // A marker stays one frame.
    expect(atOther({ from: 100, to: 101 }, one, other, 2)).toEqual({ from: 100, to: 101 });
  });
});

describe('what spans are proposed from', () => {
  it('weighs sound in decibels below full scale', () => {
    const levels = new Levels(1, 0.1, 1000);
    levels.add(Float32Array.from({ length: 500 }, (_, at) => Math.SQRT1_2 * (at % 2 ? 1 : -1)));
    const bytes = levels.bytes();
    expect([...bytes]).toEqual([3, 3, 3, 3, 3, SILENT, SILENT, SILENT, SILENT, SILENT]);
  });

  it('finds what is black for long enough', () => {
    const frames = [...'....########....##....####'].flatMap((one) => [one === '#' ? 5 : 90, 9]);
    expect(blackStretches(Uint8Array.from(frames), 2, 10)).toEqual([
      [0.4, 1.2],
      [1.6, 1.8],
      [2.2, 2.6],
    ]);
    expect(blackStretches(new Uint8Array(0), 64, 25)).toEqual([]);
  });

  it('counts up the last number of a text', () => {
    expect(['7', 'A-07', '12b', 'take', '099'].map((text) => countedUp(text, 1))).toEqual([
      '8',
      'A-08',
      '13b',
      'take',
      '100',
    ]);
    expect(countedUp('9', 3)).toBe('12');
  });
});

describe('clips or spans', () => {
  it('are chosen by the kinds a sentence asks for, which clips stay', () => {
    const asked = (text: string): string | null => showsOf(parseQuery(text));
    expect(['kind footage', 'kind span', 'kind sound, span', 'kind photo', ''].map(asked)).toEqual([
      'clips',
      'spans',
      'both',
      null,
      null,
    ]);
    const query = parseQuery('rated 3..; kind sound; order name');
    const both = showing(query, 'both');
    expect(formatQuery(both)).toBe('rated 3..; kind sound, span; order name');
    expect(formatQuery(showing(both, 'clips'))).toBe('rated 3..; kind sound; order name');
    expect(formatQuery(showing(showing(both, 'spans'), 'both'))).toBe(
      'rated 3..; kind footage, sound, span; order name',
    );
  });
});
