import { describe, expect, it } from 'vitest';
import type { ContributorEntry, StampLine } from '#core/lists/entries';
import { corrected } from '#core/contributors/follow';
import { entryWords } from '#core/entries/told';
import { EMPTY_RECORD, type RecordValues } from '#core/records/fields';
import { takenFromText } from '#core/records/taken';
import { checkStamp, contributorLines, stampChange, stampText } from '#core/stamps/stamp';

const subject = {
  name: 'SLT-0912.JPG',
  original: 'HRN_4417.JPG',
  camera: 'Heron 5',
  creator: 'Bea Lund',
  title: '',
  number: '2026.001.0001',
};
const of = (values: Partial<RecordValues> = {}) => ({
  values: { ...EMPTY_RECORD, ...values },
  subject,
});
const line = (field: string, way: StampLine['way'], value: StampLine['value']): StampLine => ({
  ...{ field, way, value },
});

describe('a stamp', () => {
  it('fills blanks, overwrites, adds', () => {
    const lines = [
      line('creditLine', 'fill', 'Saltreach Kites'),
      line('headline', 'overwrite', 'Wind Week'),
      line('instructions', 'add', 'Ask first.'),
      line('persons', 'add', ['Ida']),
      line('terms', 'add', ['Kite']),
      line('rating', 'fill', 3),
    ];
    const held = of({ creditLine: 'Own', headline: 'Old', instructions: 'Careful.', rating: 1 });
    expect(stampChange(lines, held)).toEqual({
      headline: 'Wind Week',
      instructions: 'Careful. Ask first.',
      add: { persons: ['Ida'] },
      addTerms: ['Kite'],
    });
    expect(stampChange(lines, of())).toMatchObject({ creditLine: 'Saltreach Kites', rating: 3 });
  });

  it('says it once, however often it is put', () => {
    const added = of({ instructions: 'Careful. Ask first.' });
    expect(stampChange([line('instructions', 'add', 'Ask first.')], added)).toEqual({
      instructions: 'Careful. Ask first.',
    });
  });

  it('takes terms away only where it overwrites', () => {
    const held = of({ terms: ['Kite', 'Dusk'] });
    expect(stampChange([line('terms', 'overwrite', ['Dusk', 'Wind'])], held)).toEqual({
      removeTerms: ['Kite'],
      addTerms: ['Dusk', 'Wind'],
    });
    expect(stampChange([line('terms', 'fill', ['Wind'])], held)).toEqual({});
  });

  it('fills pieces from the item, and leaves out what the item does not say', () => {
    const dated = of({ taken: takenFromText('2026-09') });
    expect(stampText('© {taken yyyy} {creator}', dated)).toBe('© 2026 Bea Lund');
    expect(stampText('{original} as {name}', dated)).toBe('HRN_4417 as SLT-0912');
    expect(stampText('{taken d MMMM yyyy}', dated)).toBeNull();
    expect(stampText('{title}', dated)).toBeNull();
    expect(stampText('a {{brace}', dated)).toBe('a {brace}');
    const lines = [line('copyrightNotice', 'overwrite', '© {taken yyyy}')];
    expect(stampChange(lines, of({ copyrightNotice: 'kept' }))).toEqual({});
  });

  it('refuses what no record can hold', () => {
    for (const lines of [
      [line('nothing', 'fill', 'x')],
      [line('rating', 'add', 3)],
      [line('rating', 'fill', 'x')],
      [line('persons', 'fill', 'x')],
      [line('title', 'fill', '{counter 001}')],
      [line('title', 'fill', '{nonsense}')],
      [line('taken', 'fill', 'yesterday')],
      [line('title', 'fill', 'a'), line('title', 'fill', 'b')],
    ])
      expect(() => checkStamp(lines)).toThrow();
    checkStamp([line('title', 'add', '{taken yyyy}'), line('taken', 'fill', '2026-09')]);
  });
});

const BEA: ContributorEntry = {
  ...{ name: 'Bea Lund', kind: 'person', also: ['B. Lund'], creditLine: 'Bea Lund / Saltreach' },
  ...{ copyrightNotice: '© Bea {Lund}', usageTerms: '', email: '', phone: '', web: '', note: '' },
  retired: false,
};

describe('a contributor', () => {
  it('puts the name and fills what is blank, braces and all', () => {
    const change = stampChange(contributorLines(BEA), of({ creditLine: 'by hand' }));
    expect(change).toEqual({ add: { creator: ['Bea Lund'] }, copyrightNotice: '© Bea {Lund}' });
  });

  it('that is called otherwise is followed by every spelling and every default, not by what was written by hand', () => {
    const after = { ...BEA, name: 'Bea Lundt', creditLine: 'Bea Lundt / Saltreach' };
    const record = (creator: string[], creditLine: string): RecordValues => ({
      ...EMPTY_RECORD,
      ...{ creator, creditLine },
    });
    expect(corrected(record(['B. Lund', 'Ines'], BEA.creditLine), BEA, after)).toEqual({
      creator: ['Bea Lundt', 'Ines'],
      creditLine: 'Bea Lundt / Saltreach',
    });
    expect(corrected(record(['Bea Lund'], 'by hand'), BEA, after)).toEqual({
      creator: ['Bea Lundt'],
    });
  });
});

describe('the ledger', () => {
  it('tells of an entry what changed, and whether it came or went', () => {
    const list = 'stage';
    const before = { list, entry: { name: 'For print', key: 'f', retired: false } };
    const after = { list, entry: { name: 'Print', key: 'f', retired: true } };
    expect(entryWords(before, after)).toEqual({
      before: 'name: For print · retired: no',
      after: 'name: Print · retired: yes',
    });
    expect(entryWords({ list, entry: null }, after)).toEqual({
      before: 'not on the list',
      after: 'Print',
    });
    expect(entryWords({ title: 'x' }, { title: 'y' })).toBeNull();
  });
});
