import { type RecordChange } from '../records/fields';
import { changeSchema } from '../records/schemas';
import { takenFromText } from '../records/taken';
import { COLUMNS, type Cell, type ColumnKey, type SheetRow } from './columns';

export interface SheetProblem {
  /** Line of the sheet, the header being 1; 0 for the sheet as a whole. */
  line: number;
  /** Label of the column; empty for the whole row. */
  column: string;
  problem: string;
}

export interface GoodRow {
  line: number;
  /** Path of the file among those sent. */
  file: string | null;
  address: string | null;
  change: RecordChange;
}

export interface CheckedSheet {
  good: GoodRow[];
  problems: SheetProblem[];
  /** Files that no row names. */
  unused: string[];
}

const LABELS = Object.fromEntries(COLUMNS.map(({ key, label }) => [key, label])) as Record<
  ColumnKey,
  string
>;

const pad = (value: number): string => String(value).padStart(2, '0');

/** Text of a cell as people mean it; dates become `2026-09-12` or `2026-09-12 19:42:00`. */
export function textOfCell(cell: Cell | undefined): string {
  if (cell === null || cell === undefined) return '';
  if (cell instanceof Date) {
    if (Number.isNaN(cell.getTime())) return '?';
    const day = cell.toISOString().slice(0, 10);
    const time = cell.toISOString().slice(11, 19);
    return time === '00:00:00' ? day : `${day} ${time}`;
  }
  return String(cell)
    .replace(/^\ufeff/, '')
    .normalize('NFC')
    .trim();
}

/** `12.09.2026` is day.month.year; with slashes nobody knows which is which. */
function isoDay(text: string): string {
  const match = /^(\d{1,2})\.(\d{1,2})\.(\d{4})(?:[ ,T]+(\d{1,2}:\d\d(?::\d\d)?))?$/.exec(text);
  if (!match) return text;
  const [, day, month, year, time] = match;
  return `${year}-${pad(Number(month))}-${pad(Number(day))}${time ? ` ${time.padStart(5, '0')}` : ''}`;
}

const listOf = (text: string): string[] =>
  text
    .split(';')
    .map((part) => part.trim())
    .filter(Boolean);

const keyOf = (path: string): string => path.normalize('NFC').toLowerCase();

/** Files by path and by name alone, where that is the only one of its name. */
function filesBy(files: string[]): Map<string, string | null> {
  const found = new Map<string, string | null>();
  for (const path of files) {
    const name = keyOf(path.split('/').at(-1)!);
    found.set(name, found.has(name) ? null : path);
  }
  for (const path of files) found.set(keyOf(path), path);
  return found;
}

/** A row as a change of a record. Throws nothing: every fault is told with its column. */
function changeOf(
  cells: SheetRow['cells'],
  stages: string[],
  tell: (key: ColumnKey, problem: string) => void,
): RecordChange {
  const change: Record<string, unknown> = {};
  for (const key of ['title', 'caption', 'creditLine', 'copyrightNotice'] as const) {
    const text = textOfCell(cells[key]);
    if (text) change[key] = text;
  }
  const creator = listOf(textOfCell(cells.creator));
  if (creator.length > 0) change['creator'] = creator;
  const terms = listOf(textOfCell(cells.terms));
  if (terms.length > 0) change['addTerms'] = terms;
  const rating = textOfCell(cells.rating);
  if (rating) {
    const value = /^rejected$/i.test(rating) ? -1 : Number(rating);
    if (Number.isInteger(value) && value >= -1 && value <= 5) change['rating'] = value;
    else tell('rating', `“${rating}” is no rating; write 0 to 5, or rejected`);
  }
  const stage = textOfCell(cells.stage);
  if (stage) {
    const known = stages.find((name) => name.toLowerCase() === stage.toLowerCase());
    if (known) change['stage'] = known;
    else tell('stage', `there is no stage “${stage}”; there are ${stages.join(', ')}`);
  }
  const taken = isoDay(textOfCell(cells.taken));
  if (taken) {
    if (takenFromText(taken)) change['taken'] = taken;
    else
      tell(
        'taken',
        /^\d{1,2}\/\d{1,2}\/\d{2,4}/.test(taken)
          ? `“${taken}” could be two dates; write 2026-09-12`
          : `“${taken}” is no date; write 2026, 2026-09, 2026-09-12 or 2026-09-12 19:42`,
      );
  }
  const parsed = changeSchema.safeParse(change);
  if (parsed.success) return parsed.data;
  for (const { path, message } of parsed.error.issues) {
    const key = path[0] === 'addTerms' ? 'terms' : (path[0] as ColumnKey);
    tell(key in LABELS ? key : 'title', message);
  }
  return {};
}

/**
 * Check every row of a sheet against the files that came along; nothing is brought in.
 * @param files paths of the files sent, ZIPs unpacked
 * @param stages the team's stages by name
 */
export function checkSheet(rows: SheetRow[], files: string[], stages: string[]): CheckedSheet {
  const found: CheckedSheet = { good: [], problems: [], unused: [] };
  const byName = filesBy(files);
  const used = new Map<string, number>();
  for (const { line, cells } of rows) {
    const problems: SheetProblem[] = [];
    const tell = (key: ColumnKey, problem: string): void =>
      void problems.push({ line, column: LABELS[key], problem });
    const named = textOfCell(cells.file).replaceAll('\\', '/').replace(/^\.\//, '');
    const address = textOfCell(cells.address);
    let file: string | null = null;
    if (textOfCell(cells.number)) tell('number', 'must stay empty: the archive gives the number');
    if (!named && !address) tell('file', 'a file name or an address is needed');
    else if (named && address) tell('address', 'name a file or an address, not both');
    else if (named) {
      const path = byName.get(keyOf(named));
      if (path === undefined) tell('file', `“${named}” was not sent along`);
      else if (path === null) tell('file', `there are several files “${named}”; write its path`);
      else if (used.has(path))
        tell('file', `“${named}” is named in line ${used.get(path)} already`);
      else file = path;
      if (path) used.set(path, used.get(path) ?? line);
    } else if (!URL.canParse(address) || !/^https?:$/.test(new URL(address).protocol))
      tell('address', `“${address}” is no web address`);
    const change = changeOf(cells, stages, tell);
    if (problems.length > 0) found.problems.push(...problems);
    else found.good.push({ line, file, address: file ? null : address, change });
  }
  found.unused = files.filter((path) => !used.has(path));
  return found;
}
