import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { planSchema } from '#core/intake/plan';
import { stamped } from '#core/intake/stamp';
import { EMPTY_RECORD } from '#core/records/fields';
import { secondsBetween, shiftTaken, takenFromText } from '#core/records/taken';
import {
  countsOf,
  decisionsFor,
  filesOf,
  give,
  isNew,
  nearest,
  ownerOf,
  remark,
} from '../../src/lib/ui/intake/choice';
import {
  draftFrom,
  formatShift,
  parseShift,
  planOf,
  type KeptPlan,
} from '../../src/lib/ui/intake/draft';
import type { Alike } from '#core/likeness/alike';
import type { ScanFile } from '../../src/lib/ui/intake/types';

const file = (position: number, over: Partial<ScanFile> = {}): ScanFile => ({
  position,
  path: `DCIM/HRN_${position}.JPG`,
  size: 10,
  lookedAt: true,
  kind: 'photo',
  format: 'jpeg',
  takenFrom: null,
  takenPrecision: null,
  camera: 'Heron 5',
  aspect: 1.5,
  problem: null,
  held: null,
  heldItemId: null,
  heldDiffers: [],
  taken: null,
  twinPosition: null,
  alike: [],
  ...over,
});
const like = (over: Partial<Alike>): Alike => ({
  kind: 'lookalike',
  itemId: null,
  number: null,
  position: null,
  distance: 4,
  ...over,
});
const held = file(1, { held: '2026.001.0003', heldItemId: 'item-3' });
const twin = file(2, { twinPosition: 0 });
const alike = file(3, { alike: [like({ itemId: 'item-9', number: '2026.001.0009' })] });
const taken = file(4, { taken: '2026.002' });
const all = [file(0), held, twin, alike, taken];

describe('choosing what comes in', () => {
  it('takes what is new without a word, and nothing else', () => {
    expect(all.map(isNew)).toEqual([true, false, false, true, false]);
    expect(filesOf(all, {}, 0).map(({ position }) => position)).toEqual([0, 3]);
    expect(filesOf(all, {}, 1)).toEqual([]);
  });

  it('puts each file into one group at most, whatever is given where', () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.tuple(fc.subarray(all), fc.option(fc.integer({ min: 0, max: 3 }), { nil: null })),
        ),
        (gifts) => {
          let owners = {};
          for (const [files, group] of gifts) owners = give(owners, files, group);
          const taken_ = [0, 1, 2, 3].flatMap((group) => filesOf(all, owners, group));
          expect(new Set(taken_).size).toBe(taken_.length);
          const [files, group] = gifts.at(-1) ?? [[], null];
          for (const one of files) expect(ownerOf(one, owners)).toBe(group);
        },
      ),
    );
  });

  it('lets held files in again, or as versions, only where somebody said so', () => {
    expect(decisionsFor([file(0)], {})).toEqual({});
    expect(decisionsFor([held], {})).toEqual({ 1: 'again' });
    expect(decisionsFor([held, alike], { 3: { versionOf: 'item-9' } })).toEqual({
      1: 'again',
      3: { versionOf: 'item-9' },
    });
    expect([nearest(held), nearest(alike), nearest(twin)]).toEqual([
      { itemId: 'item-3', number: '2026.001.0003' },
      { itemId: 'item-9', number: '2026.001.0009' },
      null,
    ]);
  });

  it('tells a picture that is held but described differently', () => {
    const differs = file(5, { ...held, position: 5, heldDiffers: ['title'] });
    expect(remark(differs, all)).toBe('same picture as 2026.001.0003, described differently');
    expect(countsOf([...all, differs])).toMatchObject({ held: 2, differ: 1 });
    expect(decisionsFor([differs], { 5: 'describe' })).toEqual({ 5: 'describe' });
  });

  it('says on the tile what there is to know', () => {
    expect(all.map((one) => remark(one, all))).toEqual([
      '',
      'already held as 2026.001.0003',
      'twin of HRN_0.JPG',
      'like 2026.001.0009',
      'in 2026.002',
    ]);
    expect(remark(file(9, { alike: [like({ position: 0 })] }), all)).toBe('like HRN_0.JPG');
    expect(countsOf(all)).toEqual({ held: 1, differ: 0, twins: 1, alike: 1, looked: 5 });
  });
});

describe('a plan in words', () => {
  const places = [
    { id: '8d5a2b8e-0d3b-4a58-9c42-6a4f6d0b6b11', name: 'Off', root: '/a', handsOff: true },
    { id: '8d5a2b8e-0d3b-4a58-9c42-6a4f6d0b6b12', name: 'Shelf', root: '/b', handsOff: false },
  ];

  it('begins in a place that may be written to, with words of our own', () => {
    const draft = draftFrom(null, 'Card B', places);
    expect(draft).toMatchObject({ title: 'Card B', mode: 'copy', placeId: places[1]!.id });
    expect(planSchema.parse(planOf(draft))).toEqual(planOf(draft));
  });

  it('comes back from the server as it went', () => {
    const kept: KeptPlan = {
      mode: 'move',
      placeId: places[1]!.id,
      plan: planSchema.parse({
        filing: '{taken yyyy}',
        naming: '{name}',
        terms: ['Kite', 'Wind Week'],
        stamp: {
          way: 'add',
          values: { title: 'Red sail', creator: ['Bea Lund', 'Tomas Ekwueme'], caption: 'x' },
        },
        secondCopyId: places[1]!.id,
        countersGoOn: false,
        clocks: { 'Tern X': 3780 },
      }),
    };
    const draft = draftFrom(kept, 'Card', places);
    expect(planOf(draft)).toEqual(kept.plan);
    expect(draftFrom({ ...kept, placeId: places[0]!.id }, '', places).placeId).toBe(places[1]!.id);
    expect(planOf({ ...draft, mode: 'in-place' }).secondCopyId).toBeNull();
  });

  it('reads and writes shifts of a clock', () => {
    fc.assert(
      fc.property(fc.integer({ min: -9_000_000, max: 9_000_000 }), (seconds) => {
        expect(parseShift(formatShift(seconds))).toBe(seconds);
      }),
    );
    expect([parseShift('90'), parseShift('-1:30'), parseShift('+0:00:12')]).toEqual([
      90, -5400, 12,
    ]);
    for (const text of ['', 'soon', '1:75', '1:2:3:4']) expect(parseShift(text)).toBeNull();
  });
});

describe('stamps', () => {
  const record = { ...EMPTY_RECORD, title: 'Dusk', creator: ['Bea Lund'] };
  const values = { title: 'Wind Week', creator: ['Ines Harrow'], creditLine: 'Saltreach Kites' };

  it('fill blanks, overwrite, or add', () => {
    expect(stamped(record, { way: 'fill blanks', values })).toMatchObject({
      title: 'Dusk',
      creator: ['Bea Lund'],
      creditLine: 'Saltreach Kites',
    });
    expect(stamped(record, { way: 'overwrite', values })).toMatchObject(values);
    expect(stamped(record, { way: 'add', values })).toMatchObject({
      title: 'Dusk\nWind Week',
      creator: ['Bea Lund', 'Ines Harrow'],
    });
  });

  it('with nothing on them change nothing, and stamping twice is stamping once', () => {
    const text = fc.string({ maxLength: 20 });
    const some = fc.record(
      { title: text, caption: text, creator: fc.array(text, { maxLength: 3 }) },
      { requiredKeys: [] },
    );
    fc.assert(
      fc.property(some, fc.constantFrom('fill blanks', 'overwrite', 'add'), (given, way) => {
        const stamp = { way: way as 'add', values: given };
        const once = stamped(record, stamp);
        expect(stamped(once, { way: stamp.way, values: {} })).toEqual(once);
        expect(stamped(once, stamp)).toEqual(once);
      }),
    );
  });
});

describe('clocks', () => {
  it('shift by what lies between two pictures of one moment', () => {
    const [wrong, right] = [
      takenFromText('2026-09-12 23:30:00')!,
      takenFromText('2026-09-13 00:33:00')!,
    ];
    const seconds = secondsBetween(wrong, right);
    expect(seconds).toBe(3780);
    expect(shiftTaken(wrong, seconds)!.from).toBe(right.from);
    expect(shiftTaken(takenFromText('2026-09')!, 60)).toBeNull();
  });

  it('come back when they are shifted back, and keep their offset', () => {
    const moment = fc
      .date({ min: new Date('1990-01-01'), max: new Date('2090-01-01'), noInvalidDate: true })
      .map((date) => takenFromText(`${date.toISOString().slice(0, 19)}+02:00`)!);
    fc.assert(
      fc.property(moment, fc.integer({ min: -1e8, max: 1e8 }), (taken_, seconds) => {
        const there = shiftTaken(taken_, seconds)!;
        expect(shiftTaken(there, -seconds)).toEqual(taken_);
        expect(there.offset).toBe(120);
      }),
    );
  });
});
