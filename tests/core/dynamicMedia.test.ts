import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  keyOf,
  rateOf,
  rateText,
  spansFrom,
  tracksFrom,
  tracksWith,
  type ToldSpan,
} from '#core/footage/dynamicMedia';

const RATES = [23.976, 24, 25, 29.97, 30, 47.952, 48, 50, 59.94, 60, 100, 119.88, 12.5];
const NOTHING = new Set<string>();
const text = fc.string({ maxLength: 20 }).map((one) => one.trim());
const span = fc
  .record({
    from: fc.integer({ min: 0, max: 5_000_000 }),
    length: fc.integer({ min: 1, max: 100_000 }),
    isMarker: fc.boolean(),
    title: text,
    note: text,
  })
  .map(({ length, ...one }): ToldSpan => ({ ...one, to: one.from + (one.isMarker ? 1 : length) }));

describe('markers of XMP Dynamic Media', () => {
  it('lead back to the very frames they were written of, at every rate', () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(span, { maxLength: 12, selector: keyOf }),
        fc.constantFrom(...RATES),
        (spans, rate) => {
          const read = spansFrom(tracksFrom(tracksWith([], spans, rate, NOTHING)), rate);
          expect(read.passedOver).toBe(0);
          expect(read.spans.map(keyOf).sort()).toEqual(spans.map(keyOf).sort());
        },
      ),
    );
    expect(RATES.map(rateText).slice(0, 5)).toEqual([
      ...['f24000s1001', 'f24', 'f25', 'f30000s1001', 'f30'],
    ]);
    for (const rate of RATES) expect(Math.abs(rateOf(rateText(rate))! - rate)).toBeLessThan(0.001);
    expect(['f25s0', '25x', '', 'f0', 'f'].map(rateOf)).toEqual([null, null, null, null, null]);
  });

  it('are read of any rate, with and without a track that names one, and what is no time is passed over', () => {
    const tracks = tracksFrom([
      {
        FrameRate: 'f50',
        Markers: [
          { StartTime: 100, Duration: '50', Name: 'Half' },
          { StartTime: '900f30000s1001', Comment: 'by its own rate' },
          { StartTime: 'soon' },
          { Name: 'no time' },
        ],
      },
      { Markers: { StartTime: '3', Name: 'in seconds' } },
      'nonsense',
      null,
    ]);
    const { spans, passedOver } = spansFrom(tracks, 25);
    expect(passedOver).toBe(2);
    expect(spans.map(({ from, to, isMarker, title }) => [from, to, isMarker, title])).toEqual([
      [50, 75, false, 'Half'],
      [75, 76, true, 'in seconds'],
      [751, 752, true, ''],
    ]);
    expect(spansFrom(tracksFrom(undefined), 25).spans).toEqual([]);
  });

  it('of other programs stay with all they say, unless they were read and no span says the same any more', () => {
    const theirs = tracksFrom([
      {
        TrackName: 'Speech',
        FrameRate: 'f25',
        Markers: [
          { StartTime: '10', Name: 'kept', Speaker: 'Ida' },
          { StartTime: '20', Name: 'let go of' },
          { StartTime: '30', Name: 'never read' },
          { Name: 'no time' },
        ],
      },
    ]);
    const { spans } = spansFrom(theirs, 25);
    const told = new Set(spans.filter(({ title }) => title !== 'never read').map(keyOf));
    const ours: ToldSpan = { from: 5, to: 9, isMarker: false, title: 'ours', note: '' };
    const [kept] = spans;
    const tracks = tracksWith(theirs, [kept!, ours], 25, told);
    expect(tracks.map(({ TrackName }) => TrackName)).toEqual(['Speech', 'Log']);
    expect(tracks[0]!.Markers).toEqual([
      { StartTime: '10', Name: 'kept', Speaker: 'Ida' },
      { StartTime: '30', Name: 'never read' },
      { Name: 'no time' },
    ]);
    expect(tracks[1]!.Markers).toEqual([
      { StartTime: '5', Duration: '4', Name: 'ours', Type: 'Index' },
    ]);
    // Our own track is written anew, not added to.
    expect(tracksWith(tracks, [ours], 25, told)[1]).toEqual(tracks[1]);
    expect(tracksWith([], [], 25, NOTHING)).toEqual([]);
  });
});
