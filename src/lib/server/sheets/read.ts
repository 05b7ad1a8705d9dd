import { readFile, stat } from 'node:fs/promises';
import ExcelJS from 'exceljs';
import { parse as parseCsv } from 'csv-parse/sync';
import { openPromise } from 'yauzl';
import { ArchiveError, sentenceOf } from '#core/errors';
import { COLUMNS, type Cell, type ColumnKey, type SheetRow } from '#core/sheets/columns';
import { textOfCell } from '#core/sheets/check';
import { bytesOfPath } from '../files/paths';

const LARGEST_SHEET = 30e6;
const MOST_ROWS = 20_000;
/** An .xlsx is a ZIP of XML, which shrinks well; a bomb shrinks better. */
const MOST_UNPACKED = 400e6;

const unreadable = (sentence: string, cause?: unknown): ArchiveError =>
  new ArchiveError('file-unreadable', sentence, {}, { cause });

/** What a cell shows: formulas give their results, rich text its words, links their text. */
function valueOf(value: ExcelJS.CellValue): Cell {
  if (value === null || value === undefined) return null;
  if (typeof value !== 'object' || value instanceof Date) return value as Cell;
  if ('richText' in value) return value.richText.map(({ text }) => text).join('');
  if ('text' in value) return String(value.text);
  if ('result' in value) return valueOf(value.result as ExcelJS.CellValue);
  return null;
}

async function checkUnpacked(path: string): Promise<void> {
  const zip = await openPromise(bytesOfPath(path).toString(), { lazyEntries: true });
  let total = 0;
  for await (const entry of zip.eachEntry()) total += entry.uncompressedSize;
  if (total > MOST_UNPACKED) throw unreadable('The spreadsheet grows far beyond its size.');
}

async function tableOfXlsx(path: string): Promise<Cell[][]> {
  await checkUnpacked(path);
  const book = new ExcelJS.Workbook();
  await book.xlsx.readFile(bytesOfPath(path).toString());
  const sheet = book.getWorksheet('Items') ?? book.worksheets[0];
  if (!sheet) throw unreadable('The spreadsheet holds no sheet.');
  if (sheet.rowCount > MOST_ROWS) throw unreadable(`The sheet has more than ${MOST_ROWS} rows.`);
  const table: Cell[][] = [];
  sheet.eachRow({ includeEmpty: true }, (row) => {
    const values = row.values as ExcelJS.CellValue[];
    table.push(Array.from(values).slice(1).map(valueOf));
  });
  return table;
}

/** Text of a CSV by its byte order mark; without one UTF-8, else Windows-1252 as old spreadsheets write. */
function decode(bytes: Buffer): string {
  if (bytes[0] === 0xff && bytes[1] === 0xfe) return new TextDecoder('utf-16le').decode(bytes);
  if (bytes[0] === 0xfe && bytes[1] === 0xff) return new TextDecoder('utf-16be').decode(bytes);
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    return new TextDecoder('windows-1252').decode(bytes);
  }
}

/** The mark that parts the head most often outside quotes. */
function delimiterOf(text: string): string {
  const head = (text.split(/\r?\n/, 1)[0] ?? '').replace(/"[^"]*"/g, '');
  const count = (mark: string): number => head.split(mark).length;
  return [',', ';', '\t'].sort((a, b) => count(b) - count(a))[0]!;
}

async function tableOfCsv(path: string): Promise<Cell[][]> {
  const text = decode(await readFile(bytesOfPath(path)));
  return parseCsv(text, {
    bom: true,
    delimiter: delimiterOf(text.replace(/^\ufeff/, '')),
    relax_column_count: true,
    skip_empty_lines: false,
    to: MOST_ROWS,
  }) as string[][];
}

/**
 * Read the rows of a sheet (.xlsx or .csv) by the labels in its head, in any order and case.
 * @throws ArchiveError file-unreadable in words
 */
export async function readSheet(path: string): Promise<{ rows: SheetRow[]; unknown: string[] }> {
  const { size } = await stat(bytesOfPath(path));
  if (size > LARGEST_SHEET) throw unreadable('The spreadsheet is larger than 30 MB.');
  let table: Cell[][];
  try {
    table = /\.xlsx$/i.test(path) ? await tableOfXlsx(path) : await tableOfCsv(path);
  } catch (error) {
    if (error instanceof ArchiveError) throw error;
    throw unreadable(`The spreadsheet cannot be read: ${sentenceOf(error)}`, error);
  }
  const at = table.findIndex((row) => row.some((cell) => textOfCell(cell) !== ''));
  const head = (table[at] ?? []).map((cell) => textOfCell(cell).toLowerCase());
  const keys = head.map(
    (label): ColumnKey | null =>
      COLUMNS.find((one) => one.label.toLowerCase() === label)?.key ?? null,
  );
  if (!keys.includes('file') && !keys.includes('address'))
    throw unreadable('The first row names no column “File” or “Address”; begin with the template.');
  const rows = table.slice(at + 1).flatMap((values, index): SheetRow[] => {
    const cells: SheetRow['cells'] = {};
    values.forEach((value, column) => {
      const key = keys[column];
      if (key && textOfCell(value) !== '') cells[key] = value;
    });
    return Object.keys(cells).length > 0 ? [{ line: at + index + 2, cells }] : [];
  });
  const unknown = head.filter((label, column) => label !== '' && keys[column] === null);
  return { rows, unknown };
}
