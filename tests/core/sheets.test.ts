import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { checkSheet, textOfCell } from '#core/sheets/check';
import type { Cell, SheetRow } from '#core/sheets/columns';

const STAGES = ['Shortlist', 'To look over'];
const FILES = ['Dunes/kite-014.jpg', 'kite-015.jpg', 'a/same.jpg', 'b/same.jpg', 'Käthe.jpg'];
const row = (line: number, cells: SheetRow['cells']): SheetRow => ({ line, cells });
const check = (...rows: SheetRow[]) => checkSheet(rows, FILES, STAGES);

describe('checking a sheet', () => {
  it('takes good rows and says of the others where and why', () => {
    const { good, problems, unused } = check(
      row(2, { file: 'kite-014.jpg', title: 'Red sail', creator: 'Bea Lund; Tomas Ekwueme' }),
      row(3, { file: 'KITE-015.JPG', terms: 'Kite; Dunes', rating: '4', stage: 'shortlist' }),
      row(4, { file: 'gone.jpg' }),
      row(5, { file: 'same.jpg' }),
      row(6, { file: 'a\\same.jpg', rating: 'lots', stage: 'Finished', number: '2026.001.0001' }),
      row(7, { title: 'No file' }),
      row(8, { file: 'kite-015.jpg' }),
      row(9, { address: 'https://example.com/a.jpg', rating: 'rejected' }),
      row(10, { address: 'ftp://example.com/a.jpg' }),
      row(11, { file: 'Ka\u0308the.jpg', address: 'https://example.com/b.jpg' }),
    );
    expect(good).toEqual([
      {
        line: 2,
        file: 'Dunes/kite-014.jpg',
        address: null,
        change: { title: 'Red sail', creator: ['Bea Lund', 'Tomas Ekwueme'] },
      },
      {
        line: 3,
        file: 'kite-015.jpg',
        address: null,
        change: { addTerms: ['Kite', 'Dunes'], rating: 4, stage: 'Shortlist' },
      },
      { line: 9, file: null, address: 'https://example.com/a.jpg', change: { rating: -1 } },
    ]);
    expect(problems.map(({ line, column, problem }) => `${line} ${column}: ${problem}`)).toEqual([
      '4 File: “gone.jpg” was not sent along',
      '5 File: there are several files “same.jpg”; write its path',
      '6 Catalogue number: must stay empty: the archive gives the number',
      '6 Rating: “lots” is no rating; write 0 to 5, or rejected',
      '6 Stage: there is no stage “Finished”; there are Shortlist, To look over',
      '7 File: a file name or an address is needed',
      '8 File: “kite-015.jpg” is named in line 3 already',
      '10 Address: “ftp://example.com/a.jpg” is no web address',
      '11 Address: name a file or an address, not both',
    ]);
    expect(unused).toEqual(['b/same.jpg', 'Käthe.jpg']);
  });

  it.each<[Cell, string | null]>([
    [new Date('2026-09-12T00:00:00Z'), '2026-09-12'],
    [new Date('2026-09-12T19:42:00Z'), '2026-09-12 19:42:00'],
    ['2026', '2026'],
    [2026, '2026'],
    ['2026-09', '2026-09'],
    ['12.9.2026', '2026-09-12'],
    ['12.09.2026 9:05', '2026-09-12 09:05'],
    ['2026-09-12 19:42', '2026-09-12 19:42'],
    ['03/04/2026', null],
    ['31.02.2026', null],
    ['last summer', null],
  ])('reads the date %s', (cell, taken) => {
    const { good, problems } = check(row(2, { file: 'kite-015.jpg', taken: cell }));
    if (taken === null) expect(problems[0]).toMatchObject({ line: 2, column: 'Taken' });
    else expect(good[0]!.change.taken).toBe(taken);
  });

  it('never throws, tells every row once, and uses no file twice', () => {
    const cell: fc.Arbitrary<Cell> = fc.oneof(
      fc.string({ maxLength: 30 }),
      fc.constantFrom(...FILES, 'same.jpg', '=1+1', 'https://example.com/x'),
      fc.double(),
      fc.boolean(),
      fc.date(),
      fc.constant(null),
    );
    const cells = fc.record(
      {
        file: cell,
        address: cell,
        title: cell,
        rating: cell,
        stage: cell,
        taken: cell,
        terms: cell,
        number: cell,
      },
      { requiredKeys: [] },
    );
    fc.assert(
      fc.property(fc.array(cells, { maxLength: 8 }), (list) => {
        const { good, problems } = check(...list.map((one, at) => row(at + 2, one)));
        const told = new Set([
          ...good.map(({ line }) => line),
          ...problems.map(({ line }) => line),
        ]);
        expect(told.size).toBe(list.length);
        const files = good.flatMap(({ file }) => file ?? []);
        expect(new Set(files).size).toBe(files.length);
      }),
    );
  });

  it('reads cells as people mean them', () => {
    expect([textOfCell(null), textOfCell(undefined), textOfCell(' a '), textOfCell(4.5)]).toEqual([
      '',
      '',
      'a',
      '4.5',
    ]);
    expect(textOfCell('e\u0301')).toBe('é');
    expect(textOfCell('\ufeffFile')).toBe('File');
  });
});
