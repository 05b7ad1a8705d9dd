import { describe, expect, it } from 'vitest';
import { changeOfLine, columnOver, linesOf } from '#core/records/column';
import { EMPTY_RECORD, FIELD_KEYS, type RecordValues } from '#core/records/fields';
import { changeSchema } from '#core/records/schemas';
import { FIRST_FIELDS, HEAD_FIELDS, sectionsAfter } from '#core/records/sections';
import { mergeAll } from '../support/spread';

const record = (values: Partial<RecordValues>) => ({ ...EMPTY_RECORD, ...values });

describe('the record card', () => {
  it.each([[FIRST_FIELDS], [[]], [['jobId', 'event'] as const], [FIELD_KEYS.slice(9)]])(
    'holds every field of the record once, whatever stands first',
    (first) => {
      const sections = sectionsAfter(first);
      const all = [...HEAD_FIELDS, ...first, ...sections.flatMap(({ fields }) => fields)];
      expect([...all].sort()).toEqual([...FIELD_KEYS].sort());
      expect(sections.every(({ fields }) => fields.length > 0)).toBe(true);
    },
  );

  it('shows of many what they share, how many differ, what most say, and every element of lists', () => {
    const merged = mergeAll([
      record({ title: 'Kite', city: 'Saltreach', persons: ['Ida', 'Bo'], rating: 3 }),
      record({ title: 'Kite', city: 'Wick', persons: ['Bo'], rating: 3 }),
      record({ title: 'Kite', city: 'Wick', persons: [] }),
    ]);
    expect(merged.title).toEqual({ value: 'Kite', mixed: 0, among: [] });
    expect(merged.city).toMatchObject({
      mixed: 2,
      among: [
        { text: 'Wick', count: 2 },
        { text: 'Saltreach', count: 1 },
      ],
    });
    expect(merged.persons).toMatchObject({
      mixed: 3,
      among: [
        { text: 'Bo', count: 2 },
        { text: 'Ida', count: 1 },
      ],
    });
    expect(merged.rating.mixed).toBe(2);
    const many = mergeAll(
      Array.from({ length: 40 }, (_, at) => record({ event: `Event ${at % 9}` })),
    );
    expect([many.event.mixed, many.event.among.length]).toEqual([9, 5]);
  });

  it('takes elements for lists of names only', () => {
    expect(changeSchema.safeParse({ add: { persons: [' Ida '] } }).data).toEqual({
      add: { persons: ['Ida'] },
    });
    expect(changeSchema.safeParse({ add: { title: ['x'] } }).success).toBe(false);
    expect(changeSchema.safeParse({ remove: { terms: ['x'] } }).success).toBe(false);
  });
});

describe('a pasted column', () => {
  it('is the first of its columns; cells may hold breaks, and what spreadsheets put in quotes', () => {
    expect(linesOf('one\ttwo\r\nthree\r\n')).toEqual(['one', 'three']);
    expect(linesOf('"a\nb"\n"say ""hi"""\n')).toEqual(['a\nb', 'say "hi"']);
    expect(linesOf('x\n\ny')).toEqual(['x', '', 'y']);
    expect(linesOf('the 5" kite\nnext')).toEqual(['the 5" kite', 'next']);
  });

  it('becomes values of the field, or tells which line is none', () => {
    expect(changeOfLine('persons', 'Ida; Bo')).toEqual({ persons: ['Ida', 'Bo'] });
    expect(changeOfLine('modelRelease', 'Unlimited')).toEqual({ modelRelease: 'MR-UMR' });
    expect(changeOfLine('modelRelease', 'perhaps')).toBeNull();
    expect(changeOfLine('taken', '2026-09~')).toEqual({ taken: '2026-09~' });
    expect(changeOfLine('taken', 'soon')).toBeNull();
    expect(changeOfLine('rating', '9')).toBeNull();
    expect(changeOfLine('terms', 'Kite')).toBeNull();
    expect(changeOfLine('jobId', 'x'.repeat(300))).toBeNull();
  });

  it('is laid over items in their order; what is beyond the last line stays', () => {
    const items = ['a', 'b', 'c'].map((id) => ({
      ...{ id, number: id },
      values: record({ title: `old ${id}`, taken: null }),
    }));
    expect(columnOver('title', ['new a', ''], items)).toEqual([
      { id: 'a', number: 'a', before: 'old a', after: 'new a', problem: null },
      { id: 'b', number: 'b', before: 'old b', after: '', problem: null },
    ]);
    // What reads the same is no change, however it is written.
    const told = [
      { ...items[0]!, values: record({ modelRelease: 'MR-UMR', persons: ['Ida', 'Bo'] }) },
    ];
    expect(columnOver('modelRelease', ['Unlimited'], told)[0]).toMatchObject({
      before: 'unlimited',
      after: 'unlimited',
    });
    expect(columnOver('persons', ['Ida;Bo'], told)[0]).toMatchObject({
      before: 'Ida; Bo',
      after: 'Ida; Bo',
    });
    expect(columnOver('taken', ['2026-09-12 10:00'], told)[0]!.after).toBe('2026-09-12T10:00:00');
    expect(
      columnOver('rating', ['4', 'x', '1', '2'], items).map(({ problem }) => !problem),
    ).toEqual([true, false, true]);
  });
});
