import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { EMPTY_RECORD, FIELD_KEYS, type RecordValues } from '#core/records/fields';
import { reconciled, stillDisputed, toldOf } from '#core/records/reconcile';
import { breaks, ruleWords } from '#core/records/rules';
import { takenFromText } from '#core/records/taken';

const record = (values: Partial<RecordValues> = {}): RecordValues => ({
  ...EMPTY_RECORD,
  ...values,
});
const NONE = new Set<never>();
const meet = (
  ours: Partial<RecordValues>,
  theirs: Partial<RecordValues>,
  before: Partial<RecordValues>,
) => reconciled(record(ours), record(theirs), toldOf(record(before)), NONE);

describe('three sides of a field', () => {
  it('take what only the file changed, keep what only the record changed, ask about both', () => {
    const { taken, disputes } = meet(
      { title: 'before', headline: 'ours', creditLine: 'ours', event: 'same' },
      { title: 'theirs', headline: 'before', creditLine: 'theirs', event: 'same' },
      { title: 'before', headline: 'before', creditLine: 'before', event: 'other' },
    );
    expect(taken).toEqual(['title']);
    expect(disputes).toEqual({ creditLine: { theirs: 'theirs', before: 'before' } });
  });

  it('take one that was emptied, but not all of them at once', () => {
    const before = { title: 'a', headline: 'b' };
    expect(meet(before, { title: 'a' }, before).taken).toEqual(['headline']);
    expect(meet(before, {}, before)).toEqual({ taken: [], disputes: {}, isStripped: true });
    // A file that never said anything was not stripped of it.
    expect(meet(before, {}, {})).toEqual({ taken: [], disputes: {}, isStripped: false });
  });

  it('are compared as files can say them', () => {
    const taken = takenFromText('2026-09~')!;
    const inFile = takenFromText('2026-09')!;
    const ours = { taken, terms: ['Dusk', 'Kite'] };
    const theirs = { taken: inFile, terms: ['Kite', 'Dusk'] };
    expect(meet(ours, theirs, { taken })).toMatchObject({ taken: [], disputes: {} });
  });

  it('ask where nobody noted what the file said, only about what was set here and is not written', () => {
    const ours = record({ title: 'ours', headline: 'ours' });
    const theirs = record({ title: 'theirs', headline: 'theirs' });
    const { taken, disputes } = reconciled(ours, theirs, null, new Set(['title'] as const));
    expect(taken).toEqual(['headline']);
    expect(disputes).toEqual({ title: { theirs: 'theirs', before: null } });
    const blank = reconciled(ours, record(), null, new Set(FIELD_KEYS));
    expect(blank).toEqual({ taken: [], disputes: {}, isStripped: false });
  });

  it('lose nothing: each value is taken, disputed, the same, or was there before', () => {
    const value = fc.constantFrom('', 'a', 'b', 'c');
    const side = fc.record({ title: value, headline: value, creditLine: value });
    fc.assert(
      fc.property(side, side, side, (ours, theirs, before) => {
        const { taken, disputes, isStripped } = meet(ours, theirs, before);
        for (const key of ['title', 'headline', 'creditLine'] as const) {
          const isTaken = taken.includes(key);
          if (isTaken) expect(ours[key]).toBe(before[key]);
          if (!isTaken && !disputes[key] && !isStripped)
            expect([ours[key], before[key]]).toContain(theirs[key]);
          expect(isTaken && disputes[key] !== undefined).toBe(false);
        }
      }),
    );
  });

  it('are settled once both say the same', () => {
    const disputes = { title: { theirs: 'theirs', before: null } };
    expect(stillDisputed(disputes, record({ title: 'ours' }))).toEqual(disputes);
    expect(stillDisputed(disputes, record({ title: 'theirs' }))).toEqual({});
  });
});

describe('a rule of the house', () => {
  it('asks for something, or for one of some values', () => {
    const rule = { field: 'event', required: true, allowed: ['Wind Week'], like: '' } as const;
    const plain = { ...rule, allowed: [...rule.allowed] };
    expect(['', 'Wind Week', 'Other'].map((value) => breaks(value, plain))).toEqual([
      ...[true, false, true],
    ]);
    expect(ruleWords('', plain)).toBe('Event is missing');
    expect(ruleWords('Other', plain)).toBe('Event may be Wind Week');
    const persons = { field: 'persons', required: false, allowed: ['Ida'], like: '' } as const;
    expect(breaks(['Ida', 'Zoë'], { ...persons, allowed: ['Ida'] })).toBe(true);
    const job = { field: 'jobId', required: false, allowed: [], like: '@@-####*' } as const;
    expect(
      ['', 'WW-2026', 'WW-2026 b', 'W-2026', 'WW-202'].map((one) =>
        breaks(one, { ...job, allowed: [] }),
      ),
    ).toEqual([false, false, false, true, true]);
    expect(ruleWords('W', { ...job, allowed: [] })).toBe('Job id is written like @@-####*');
  });
});
