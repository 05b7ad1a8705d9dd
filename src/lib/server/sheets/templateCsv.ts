import { stringify } from 'csv-stringify/sync';
import { COLUMNS } from '#core/sheets/columns';

/** The template as CSV, with a byte order mark so that spreadsheets read it as Unicode. */
export const templateCsv = (): string =>
  stringify([COLUMNS.map(({ label }) => label)], { bom: true, record_delimiter: 'windows' });
