import ExcelJS from 'exceljs';
import { parse as parseCsv } from 'csv-parse/sync';
import { fromBufferPromise } from 'yauzl';
import { ArchiveError, sentenceOf } from '#core/errors';
import { COLUMNS, type Cell, type ColumnKey, type SheetRow } from '#core/sheets/columns';
import { checkSheet, textOfCell, type CheckedSheet } from '#core/sheets/check';
import { counted } from '#core/text/quantities';
import { withOpened } from '../files/open';

/** Sheets are read apart (../apart): what stands here may take its time, but not without end. */
const LARGEST_SHEET = 30e6;
const MOST_ROWS = 20_000;
const MOST_COLUMNS = 200;
const LONGEST_RECORD = 1 << 20;
/** An .xlsx is a ZIP of XML, which shrinks well; a bomb shrinks better. */
const MOST_UNPACKED = 400e6;
const MOST_ENTRIES = 2000;

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

/** Position of a column by its letters, A being 1. */
const columnOf = (letters: string): number =>
  [...letters].reduce((sum, letter) => sum * 26 + letter.charCodeAt(0) - 64, 0);

const tooWide = (): ArchiveError =>
  unreadable(`The sheet has cells beyond column ${MOST_COLUMNS}; delete what stands there.`);
const tooLong = (): ArchiveError =>
  unreadable(`The sheet has more than ${counted(MOST_ROWS, 'row')}; send it in parts.`);

/** Refuse cells far out before a library makes room for all that lie between. */
function checkCells(xml: string): void {
  for (const [, letters, row] of xml.matchAll(/<c\b[^>]*?\br="([A-Z]{1,9})(\d{1,9})"/g)) {
    if (columnOf(letters!) > MOST_COLUMNS) throw tooWide();
    if (Number(row) > MOST_ROWS + 1) throw tooLong();
  }
  for (const [, row] of xml.matchAll(/<row\b[^>]*?\br="(\d{1,9})"/g))
    if (Number(row) > MOST_ROWS + 1) throw tooLong();
}

/** What an .xlsx really unpacks to, whatever it says of itself, and how far its cells reach. */
async function survey(bytes: Buffer): Promise<void> {
  const zip = await fromBufferPromise(bytes, { lazyEntries: true });
  if (zip.entryCount > MOST_ENTRIES) throw unreadable('The spreadsheet holds too many parts.');
  let total = 0;
  for await (const entry of zip.eachEntry()) {
    const isSheet = /worksheets\/[^/]+\.xml$/i.test(entry.fileName);
    let rest = '';
    for await (const chunk of await zip.openReadStreamPromise(entry)) {
      total += (chunk as Buffer).length;
      if (total > MOST_UNPACKED) throw unreadable('The spreadsheet grows far beyond its size.');
      if (!isSheet) continue;
      const xml = rest + (chunk as Buffer).toString('latin1');
      checkCells(xml);
      // A tag may be cut by the end of the piece.
      rest = xml.slice(xml.lastIndexOf('<')).slice(0, 2000);
    }
  }
}

async function tableOfXlsx(bytes: Buffer): Promise<Cell[][]> {
  await survey(bytes);
  const book = new ExcelJS.Workbook();
  await book.xlsx.load(bytes as unknown as ExcelJS.Buffer);
  const sheet = book.getWorksheet('Items') ?? book.worksheets[0];
  if (!sheet) throw unreadable('The spreadsheet holds no sheet.');
  if (sheet.rowCount > MOST_ROWS + 1) throw tooLong();
  if (sheet.columnCount > MOST_COLUMNS) throw tooWide();
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

function tableOfCsv(bytes: Buffer): Cell[][] {
  const text = decode(bytes);
  const table = parseCsv(text, {
    bom: true,
    delimiter: delimiterOf(text.replace(/^\ufeff/, '')),
    relax_column_count: true,
    skip_empty_lines: false,
    max_record_size: LONGEST_RECORD,
    to: MOST_ROWS + 2,
  }) as string[][];
  if (table.length > MOST_ROWS + 1) throw tooLong();
  if (table.some((row) => row.length > MOST_COLUMNS)) throw tooWide();
  return table;
}

/** The bytes of a sheet. @throws ArchiveError file-unreadable where they are too many */
const bytesOf = (path: string): Promise<Buffer> =>
  withOpened(path, async (handle) => {
    const { size } = await handle.stat();
    if (size > LARGEST_SHEET) throw unreadable('The spreadsheet is larger than 30 MB.');
    return handle.readFile();
  });

/**
 * Read the rows of a sheet (.xlsx or .csv) by the labels in its head, in any order and case.
 * @throws ArchiveError file-unreadable in words
 */
export async function readSheet(path: string): Promise<{ rows: SheetRow[]; unknown: string[] }> {
  const bytes = await bytesOf(path);
  let table: Cell[][];
  try {
    table = /\.xlsx$/i.test(path) ? await tableOfXlsx(bytes) : tableOfCsv(bytes);
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

/** A sheet read and checked against the files that came with it. */
export async function checkSheetFile(wish: {
  path: string;
  files: string[];
  stages: string[];
}): Promise<CheckedSheet & { unknown: string[] }> {
  const { rows, unknown } = await readSheet(wish.path);
  return { ...checkSheet(rows, wish.files, wish.stages), unknown };
}
