import { ArchiveError } from '../errors';
import { formatLdml, type WallClock } from '../text/ldml';

/**
 * Name patterns: text with pieces in braces, `LWW-{taken MMdd}-{counter 0001 by day}`.
 * A slash separates folders where a pattern builds a filing path. Grammar: docs/name-patterns.md.
 */
export type CounterScope = 'all' | 'day' | 'folder' | 'camera' | 'name';

export type Piece =
  | { piece: 'text'; text: string }
  | { piece: 'taken'; format: string }
  | { piece: 'counter'; start: number; width: number; scope: CounterScope }
  | { piece: 'name' }
  | { piece: 'original' }
  | { piece: 'camera' }
  | { piece: 'creator' }
  | { piece: 'title' }
  | { piece: 'number' };

/** What the pieces of one item are filled from. */
export interface NameSubject {
  /** Present name with extension. */
  name: string;
  /** Name it had before it came in. */
  original: string;
  /** Wall clock of the time taken; null where unknown. */
  taken: WallClock | null;
  /** How far `taken` is known; fields beyond it must not be invented. */
  precision: 'moment' | 'day' | 'month' | 'year' | 'span';
  camera: string;
  creator: string;
  title: string;
  number: string;
  /** Folder it will lie in; scope of counters by folder. */
  folder: string;
}

const SCOPES: Record<string, CounterScope> = {
  day: 'day',
  folder: 'folder',
  camera: 'camera',
  name: 'name',
};

const PLAIN = new Set(['name', 'original', 'camera', 'creator', 'title', 'number'] as const);
type PlainPiece = Exclude<Piece['piece'], 'text' | 'taken' | 'counter'>;

const unclear = (sentence: string): ArchiveError => new ArchiveError('pattern-unclear', sentence);

const SAMPLE: WallClock = {
  year: 2026,
  month: 9,
  day: 12,
  hour: 19,
  minute: 42,
  second: 7,
  millisecond: 0,
};

function parsePiece(body: string): Piece {
  const [word = '', ...rest] = body.trim().split(/\s+/);
  const more = rest.join(' ');
  if (PLAIN.has(word as PlainPiece) && !more) return { piece: word as PlainPiece };
  if (word === 'taken') {
    const format = more || 'yyyy-MM-dd';
    try {
      formatLdml(SAMPLE, format);
    } catch (error) {
      throw unclear(`${(error as Error).message}; try yyyy, MM, dd, HH, mm, ss`);
    }
    return { piece: 'taken', format };
  }
  if (word === 'counter') {
    const match = /^(\d{1,8})(?: by (day|folder|camera|name))?$/.exec(more || '1');
    if (!match) throw unclear(`“{${body}}”: a counter reads like {counter 0001 by day}`);
    const scope = match[2] ? SCOPES[match[2]]! : 'all';
    return { piece: 'counter', start: Number(match[1]), width: match[1]!.length, scope };
  }
  throw unclear(
    `“{${body}}” is no piece we know; there are taken, counter, name, original, camera, creator, title and number`,
  );
}

/**
 * Parse a pattern. `{{` stands for a brace in the name.
 * @throws ArchiveError pattern-unclear, with the piece it met
 */
export function parsePattern(pattern: string): Piece[] {
  const pieces: Piece[] = [];
  const addText = (text: string): void => {
    const last = pieces.at(-1);
    if (last?.piece === 'text') last.text += text;
    else if (text) pieces.push({ piece: 'text', text });
  };
  let at = 0;
  while (at < pattern.length) {
    const open = pattern.indexOf('{', at);
    if (open < 0) {
      addText(pattern.slice(at));
      break;
    }
    addText(pattern.slice(at, open));
    if (pattern[open + 1] === '{') {
      addText('{');
      at = open + 2;
      continue;
    }
    const close = pattern.indexOf('}', open);
    if (close < 0) throw unclear(`“${pattern.slice(open)}” is not closed with a brace`);
    pieces.push(parsePiece(pattern.slice(open + 1, close)));
    at = close + 1;
  }
  return pieces;
}

/** The text form of one piece. */
export function formatPiece(piece: Piece): string {
  switch (piece.piece) {
    case 'text':
      return piece.text.replaceAll('{', '{{');
    case 'taken':
      return `{taken ${piece.format}}`;
    case 'counter': {
      const start = String(piece.start).padStart(piece.width, '0');
      return `{counter ${start}${piece.scope === 'all' ? '' : ` by ${piece.scope}`}}`;
    }
    default:
      return `{${piece.piece}}`;
  }
}

/** The text form of a pattern; `parsePattern` reads it back to the same pieces. */
export function formatPattern(pieces: Piece[]): string {
  return pieces.map(formatPiece).join('');
}

/** Bytes no file name may hold, and the ones other systems refuse. */
// eslint-disable-next-line no-control-regex -- these are the characters meant
const REFUSED = /[\u0000-\u001f\u007f/\\:*?"<>|]/g;

/** A value made fit for a name: refused characters become hyphens. */
export function nameSafe(value: string): string {
  return value.normalize('NFC').replace(REFUSED, '-').replace(/\s+/g, ' ').trim();
}

/** Split `HRN_4417.JPG` into stem and extension (without dot). */
export function splitName(name: string): { stem: string; extension: string } {
  const dot = name.lastIndexOf('.');
  if (dot <= 0 || dot === name.length - 1 || name.length - dot > 12)
    return { stem: name, extension: '' };
  return { stem: name.slice(0, dot), extension: name.slice(dot + 1) };
}

/** How much of a date a format asks for. */
function needed(format: string): NameSubject['precision'] {
  const fields = format.replace(/'[^']*'/g, '');
  if (/[HmsS]/.test(fields)) return 'moment';
  if (/[dEw]/.test(fields)) return 'day';
  return /M/.test(fields) ? 'month' : 'year';
}

const DEPTH = { span: 0, year: 1, month: 2, day: 3, moment: 4 } as const;

/** `undated` where nobody knows; never a part of a date that is not known. */
function takenText(subject: NameSubject, format: string): string {
  if (!subject.taken || DEPTH[subject.precision] < DEPTH[needed(format)]) return 'undated';
  return nameSafe(formatLdml(subject.taken, format));
}

function plainText(piece: PlainPiece, subject: NameSubject): string {
  switch (piece) {
    case 'name':
      return splitName(subject.name).stem;
    case 'original':
      return splitName(subject.original).stem;
    case 'camera':
      return nameSafe(subject.camera) || 'unknown camera';
    case 'creator':
      return nameSafe(subject.creator) || 'no creator';
    case 'title':
      return nameSafe(subject.title) || 'untitled';
    case 'number':
      return subject.number;
  }
}

function scopeKey(scope: CounterScope, subject: NameSubject, filled: string): string {
  switch (scope) {
    case 'all':
      return '';
    case 'day':
      return takenText(subject, 'yyyy-MM-dd');
    case 'folder':
      return subject.folder;
    case 'camera':
      return subject.camera;
    case 'name':
      return filled;
  }
}

/** Counters of one run; pass the same object for all names of a batch, in their order. */
export type Counters = Map<string, number>;

/** Fill a pattern for one subject. Counters step in the order of the calls. */
export function fillPattern(pieces: Piece[], subject: NameSubject, counters: Counters): string {
  const fill = (piece: Piece, around: string): string => {
    if (piece.piece === 'text') return piece.text;
    if (piece.piece === 'taken') return takenText(subject, piece.format);
    if (piece.piece !== 'counter') return plainText(piece.piece, subject);
    const key = `${formatPiece(piece)}\0${scopeKey(piece.scope, subject, around)}`;
    const value = counters.get(key) ?? piece.start;
    counters.set(key, value + 1);
    return String(value).padStart(piece.width, '0');
  };
  const around = pieces
    .filter((piece) => piece.piece !== 'counter')
    .map((piece) => fill(piece, ''))
    .join('\0');
  return pieces.map((piece) => fill(piece, around)).join('');
}

/** Room kept below the 255 bytes of a file name for `.xmp` and a telling-apart number. */
export const LONGEST_NAME = 240;
const RESERVED = /^(con|prn|aux|nul|com[0-9]|lpt[0-9])(\..*)?$/i;

/** Why a name cannot be given, in words; null where it can. */
export function nameProblem(name: string): string | null {
  const { stem } = splitName(name);
  if (stem.trim() === '' || name.trim() === '') return 'the name is empty';
  if (name === '.' || name === '..') return 'the name means a folder';
  if (name.startsWith('.')) return 'a name that begins with a dot is hidden';
  REFUSED.lastIndex = 0;
  if (REFUSED.test(name)) return 'a name cannot hold / \\ : * ? " < > | or control characters';
  if (RESERVED.test(name)) return `“${stem}” is reserved by some systems`;
  if (/[ .]$/.test(name) || /^ /.test(name))
    return 'a name cannot begin or end with a space or end with a dot';
  const bytes = new TextEncoder().encode(name).length;
  return bytes > LONGEST_NAME ? `the name takes ${bytes} bytes; ${LONGEST_NAME} is the most` : null;
}

/** Why a folder path (parts joined by `/`) cannot be used, in words; null where it can. */
export function pathProblem(path: string): string | null {
  if (path === '') return null;
  for (const part of path.split('/')) {
    if (part === '') return 'a folder name is empty';
    const problem = nameProblem(part);
    if (problem) return `folder “${part}”: ${problem}`;
  }
  return path.length > 900 ? 'the folder path is too long' : null;
}

/** Two names are one where a disk that ignores case or Unicode composition would say so. */
export function nameKey(name: string): string {
  return name.normalize('NFC').toLowerCase();
}

/** `LWW-0912-0234.jpg` → `LWW-0912-0234-2.jpg`. */
export function numbered(name: string, number: number): string {
  const { stem, extension } = splitName(name);
  return extension ? `${stem}-${number}.${extension}` : `${stem}-${number}`;
}

/** The name itself, or with the first number from 2 that is free. */
export function apartFrom(name: string, isTaken: (key: string) => boolean): string {
  if (!isTaken(nameKey(name))) return name;
  for (let number = 2; ; number += 1) {
    const next = numbered(name, number);
    if (!isTaken(nameKey(next))) return next;
  }
}

/** A new name: the filled stem with the old extension in lower case. */
export function withExtension(stem: string, oldName: string): string {
  const { extension } = splitName(oldName);
  return extension ? `${stem}.${extension.toLowerCase()}` : stem;
}
