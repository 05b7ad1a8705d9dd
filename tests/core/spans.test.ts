import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  countedAt,
  frameWords,
  lanesOf,
  lengthWords,
  moved,
  stretchOf,
  trimmed,
} from '#core/footage/span';
import { addFrames, formatTimecode, framesOfDay, parseTimecode } from '#core/footage/timecode';
import { formatVtt, parseVtt } from '#core/footage/webvtt';

/** Rates of SMPTE ST 12-1 and how they are counted. */
const RATES = [
  ...[23.976, 24, 25, 30, 47.952, 48, 50, 60].map((rate) => [rate, false] as const),
  ...[29.97, 59.94, 119.88].flatMap(
    (rate) =>
      [
        [rate, false],
        [rate, true],
      ] as const,
  ),
];

/** Minutes a counter is followed through: the first half hour, and the last of the day. */
const MINUTES = [
  ...Array.from({ length: 31 }, (_, at) => at),
  ...Array.from({ length: 11 }, (_, at) => 1429 + at),
];

/** A counter that goes as a clock does: one frame after the other, left out numbers passed over; with the frames since midnight. */
function* counter(base: number, drop: boolean): Generator<[text: string, frame: number]> {
  const pad = (value: number, digits = 2): string => String(value).padStart(digits, '0');
  const left = drop ? (2 * base) / 30 : 0;
  for (const minute of MINUTES) {
    let at = minute * 60 * base - left * (minute - Math.ceil(minute / 10));
    for (let second = 0; second < 60; second += 1)
      for (let frame = 0; frame < base; frame += 1) {
        if (second === 0 && minute % 10 !== 0 && frame < left) continue;
        const time = `${pad(Math.floor(minute / 60))}:${pad(minute % 60)}:${pad(second)}`;
        yield [`${time}${drop ? ';' : ':'}${pad(frame, base > 100 ? 3 : 2)}`, at];
        at += 1;
      }
  }
}

describe('timecode of SMPTE ST 12-1', () => {
  it.each(RATES)(
    'at %d frames a second (left out numbers: %s) counts as a counter does',
    (rate, drop) => {
      const base = Math.round(rate);
      const wrong: string[] = [];
      let day = 0;
      for (const [text, frame] of counter(base, drop)) {
        if (formatTimecode({ frame, base, drop }) !== text) wrong.push(text);
        if (parseTimecode(text, rate)?.frame !== frame) wrong.push(text);
        day = frame + 1;
      }
      expect([wrong.slice(0, 5), day]).toEqual([[], framesOfDay({ base, drop })]);
      const last = { frame: day - 1, base, drop };
      expect(addFrames(last, 1).frame).toBe(0);
      expect(addFrames({ frame: 0, base, drop }, -1)).toEqual(last);
    },
  );
});

const stretch = fc
  .tuple(fc.integer({ min: -50, max: 400 }), fc.integer({ min: -50, max: 400 }))
  .map(([a, b]) => stretchOf(a, b, 300));

describe('a span', () => {
  it('lies within its clip, is a frame long at least, whichever end was set first', () => {
    fc.assert(
      fc.property(stretch, fc.integer(), fc.boolean(), (one, frame, isFrom) => {
        for (const { from, to } of [
          one,
          moved(one, frame % 1000, 300),
          trimmed(one, isFrom ? 'from' : 'to', frame % 1000, 300),
        ]) {
          expect(from).toBeGreaterThanOrEqual(0);
          expect(to).toBeGreaterThan(from);
          expect(to).toBeLessThanOrEqual(300);
        }
        const on = moved(one, frame % 1000, 300);
        expect(on.to - on.from).toBe(one.to - one.from);
      }),
    );
    expect(stretchOf(40, 12)).toEqual({ from: 12, to: 41 });
  });

  it('lies in a lane where nothing overlaps it, and in as few lanes as overlap at once', () => {
    fc.assert(
      fc.property(fc.array(stretch, { maxLength: 40 }), (all) => {
        const lanes = lanesOf(all);
        all.forEach((one, a) =>
          all.forEach((other, b) => {
            if (a < b && lanes[a] === lanes[b])
              expect(one.to <= other.from || other.to <= one.from).toBe(true);
          }),
        );
        const most = Math.max(
          0,
          ...all.map(({ from }) => all.filter((one) => one.from <= from && from < one.to).length),
        );
        expect(new Set(lanes).size).toBe(most);
      }),
    );
  });

  it('is told in timecode where the clip has one, else in time and frames', () => {
    expect(frameWords({ rate: 25, start: '10:42:00:00' }, 184)).toBe('10:42:07:09');
    expect(frameWords({ rate: 29.97, start: '00:00:59;28' }, 2)).toBe('00:01:00;02');
    expect(frameWords({ rate: 25, start: null }, 1510)).toBe('01:00 +10');
    expect([lengthWords(308, 25), lengthWords(8, 25), lengthWords(2000, 25)]).toEqual([
      '12 s 8 f',
      '8 f',
      '1 min 20 s',
    ]);
    expect([countedAt(undefined), countedAt(0), countedAt(23.976)]).toEqual([100, 100, 23.976]);
  });
});

describe('WebVTT', () => {
  const texts = fc.constantFrom(
    '',
    'Launch',
    'a --> b',
    '<b>x</b> & y',
    'two\n\nlines',
    'WEBVTT',
    '00:00.000 --> 00:01.000',
  );
  it('gives back every frame and word, at every rate', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...RATES.map(([rate]) => rate)),
        fc.array(
          fc.record({
            at: stretch,
            title: fc.constantFrom('', 'Launch', 'x < y & z'),
            note: texts,
          }),
          { maxLength: 8 },
        ),
        (rate, all) => {
          const cues = all
            .map(({ at, ...said }) => ({ ...at, ...said }))
            .sort((a, b) => a.from - b.from || a.to - b.to);
          const back = parseVtt(formatVtt(cues, rate), rate);
          expect(back.cues.map(({ from, to, title }) => [from, to, title])).toEqual(
            cues.map(({ from, to, title }) => [from, to, title]),
          );
          const plain = (text: string): string => text.split('\n').filter(Boolean).join('\n');
          expect(back.cues.map(({ note }) => note)).toEqual(cues.map(({ note }) => plain(note)));
        },
      ),
    );
  });

  it('of others is read: hours left out, settings, names of cues, comments and styles', () => {
    const text =
      '\ufeffWEBVTT by hand\r\n\r\nNOTE no cue\r\n\r\nSTYLE\r\n::cue {}\r\n\r\n1\r\n00:01.000 --> 00:02.500 line:0 align:left\r\n<v Ida>Over &amp; out\r\nsecond line\r\n\r\n00:05.000 --> 00:04.000\r\nbackwards\r\n';
    expect(parseVtt(text, 25)).toEqual({
      cues: [{ from: 25, to: 63, title: 'Over & out', note: 'second line' }],
      passedOver: 1,
    });
    for (const other of ['', 'x', 'WEBVTTx', '#EXTM3U\nhttp://x/'])
      expect(() => parseVtt(other, 25), other).toThrow('no WebVTT');
  });
});
