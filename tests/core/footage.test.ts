import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { frameAt, frameTimes, isEven, isSteady, middleOf } from '#core/footage/frames';
import { Peaks } from '#core/footage/peaks';
import { addFrames, formatTimecode, framesOfDay, parseTimecode } from '#core/footage/timecode';

const later = (text: string, rate: number, frames: number): string =>
  formatTimecode(addFrames(parseTimecode(text, rate)!, frames));

describe('timecode', () => {
  it.each([
    ['00:00:59;28', 29.97, 1, '00:00:59;29'],
    ['00:00:59;29', 29.97, 1, '00:01:00;02'],
    ['00:09:59;29', 29.97, 1, '00:10:00;00'],
    ['00:00:59;59', 59.94, 1, '00:01:00;04'],
    ['23:59:59;29', 29.97, 1, '00:00:00;00'],
    ['23:59:59:24', 25, 1, '00:00:00:00'],
    ['10:00:00:00', 25, 15_000, '10:10:00:00'],
    ['01:00:00:00', 29.97, 30, '01:00:01:00'],
    ['00:01:00;02', 29.97, -1, '00:00:59;29'],
  ])('%s at %d and %d frames is %s', (from, rate, frames, to) => {
    expect(later(from, rate, frames)).toBe(to);
  });

  it('numbers every frame of a day once, and reads what it writes', () => {
    const day = framesOfDay({ base: 30, drop: true });
    expect(day).toBe(2_589_408);
    fc.assert(
      fc.property(fc.integer({ min: 0, max: day - 1 }), (frame) => {
        const text = formatTimecode({ frame, base: 30, drop: true });
        expect(parseTimecode(text, 29.97)).toEqual({ frame, base: 30, drop: true });
      }),
    );
  });

  it('refuses what no counter shows', () => {
    for (const text of ['00:01:00;01', '24:00:00:00', '00:60:00:00', '00:00:00:30', 'x'])
      expect(parseTimecode(text, 29.97), text).toBeNull();
  });
});

describe('frames', () => {
  it('are seen at their times, in the order of showing, whatever order they lie in', () => {
    const times = frameTimes([2, 1, 1.04, 1.12, NaN, 1.04]);
    expect([...times].map((time) => +time.toFixed(2))).toEqual([0, 0.04, 0.12, 1]);
    expect(isSteady(times)).toBe(false);
    for (let frame = 0; frame < times.length; frame += 1)
      expect(frameAt(times, middleOf(times, frame))).toBe(frame);
    expect(frameAt(times, 99)).toBe(3);
    expect(isEven(frameTimes([0, 0.04, 0.08, 0.12]))).toBe(true);
    const slowStart = frameTimes([0, ...Array.from({ length: 50 }, (_, at) => 0.1 + at * 0.04)]);
    expect([isSteady(slowStart), isEven(slowStart)]).toEqual([true, false]);
  });
});

describe('peaks', () => {
  it('hold the highest and lowest sample of each stretch, however the sound comes in parts', () => {
    const sound = Float32Array.from({ length: 1000 }, (_, at) => (at < 500 ? 0.5 : -1));
    const peaks = new Peaks(10, 1000);
    for (let from = 0; from < 1000; from += 77) peaks.add(sound.subarray(from, from + 77));
    expect([...peaks.bytes()]).toEqual(
      [...Array(5).fill([0, 64]), ...Array(5).fill([-127, 0])].flat(),
    );
  });
});
