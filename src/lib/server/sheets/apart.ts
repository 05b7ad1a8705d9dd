import { apart } from '../apart/apart';
import type { checkSheetFile } from './read';
import type { templateXlsx } from './template';
import type { unzip } from './unzip';

/** What of spreadsheets and ZIPs is done apart. */
export const SHEET = apart<typeof checkSheetFile>('sheets/read', 'checkSheetFile');
export const TEMPLATE = apart<typeof templateXlsx>('sheets/template', 'templateXlsx');
export const UNZIP = apart<typeof unzip>('sheets/unzip', 'unzip');
