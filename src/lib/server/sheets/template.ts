import ExcelJS from 'exceljs';
import { COLUMNS } from '#core/sheets/columns';

/** The template as .xlsx: a sheet to fill and one that explains each column. */
export async function templateXlsx(): Promise<Buffer> {
  const book = new ExcelJS.Workbook();
  const items = book.addWorksheet('Items', { views: [{ state: 'frozen', ySplit: 1 }] });
  items.columns = COLUMNS.map(({ label, key }) => ({
    header: label,
    key,
    width: Math.max(14, label.length + 4),
  }));
  items.getRow(1).font = { bold: true };
  const columns = book.addWorksheet('Columns');
  columns.columns = [
    { header: 'Column', key: 'label', width: 20 },
    { header: 'Need', key: 'need', width: 18 },
    { header: 'What it holds', key: 'says', width: 90 },
    { header: 'Example', key: 'example', width: 40 },
  ];
  columns.getRow(1).font = { bold: true };
  for (const column of COLUMNS) columns.addRow(column);
  return Buffer.from(await book.xlsx.writeBuffer());
}
