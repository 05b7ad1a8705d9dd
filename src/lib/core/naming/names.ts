import { writtenNumber } from './numerals';

/** What names may be: on this disk and on those of others. */

/** Bytes no file name may hold, and the ones other systems refuse. */
// eslint-disable-next-line no-control-regex -- these are the characters meant
const REFUSED = /[\u0000-\u001f\u007f/\\:*?"<>|]/g;

/** Half of a pair of UTF-16 is no character of any disk. */
const HALVES = /[\uD800-\uDBFF](?![\uDC00-\uDFFF])|(?<![\uD800-\uDBFF])[\uDC00-\uDFFF]/g;

/** What most values are made of: nothing to mend then. */
const PLAIN = /^[A-Za-z0-9_.()+,;=@!#&~'-]+(?: [A-Za-z0-9_.()+,;=@!#&~'-]+)*$/;

/** A value made fit for a name: refused characters become hyphens. */
export function nameSafe(value: string): string {
  if (value === '' || PLAIN.test(value)) return value;
  return value
    .replace(HALVES, '-')
    .normalize('NFC')
    .replace(REFUSED, '-')
    .replace(/\s+/g, ' ')
    .trim();
}

/** Characters of an extension with its dot, at most. */
const LONGEST_EXTENSION = 12;

/** Where the dot of an extension stands; -1 where there is none. */
function extensionAt(name: string): number {
  const dot = name.lastIndexOf('.');
  return dot <= 0 || dot === name.length - 1 || name.length - dot > LONGEST_EXTENSION ? -1 : dot;
}

/** Split `HRN_4417.JPG` into stem and extension (without dot). */
export function splitName(name: string): { stem: string; extension: string } {
  const dot = extensionAt(name);
  if (dot < 0) return { stem: name, extension: '' };
  return { stem: name.slice(0, dot), extension: name.slice(dot + 1) };
}

/** Room kept below the 255 bytes of a file name for `.xmp` and a telling-apart number. */
export const LONGEST_NAME = 240;
const RESERVED = /^(con|prn|aux|nul|com[0-9]|lpt[0-9])(\..*)?$/i;
/** They are short before any dot: most names are not. */
const isReserved = (name: string): boolean => {
  const dot = name.indexOf('.');
  return (dot < 0 ? name.length : dot) <= 4 && RESERVED.test(name);
};

/** Why a name cannot be given. */
export type NameTrouble =
  'empty' | 'dots' | 'hidden' | 'characters' | 'reserved' | 'edges' | 'long';

/** Bytes of a name in UTF-8. */
export function bytesOfName(name: string): number {
  let bytes = 0;
  for (const character of name) {
    const code = character.codePointAt(0)!;
    bytes += code < 0x80 ? 1 : code < 0x800 ? 2 : code < 0x10000 ? 3 : 4;
  }
  return bytes;
}

/** Names of most files: nothing to look at more closely. */
const USUAL = /^[A-Za-z0-9_][A-Za-z0-9 _.()+,;=@!#&~'-]{3,78}[A-Za-z0-9_)]$/;

/** What stands in the way of a name, on this disk or on those of others; null where nothing does. */
export function nameTrouble(name: string): NameTrouble | null {
  if (USUAL.test(name)) return isReserved(name) ? 'reserved' : null;
  if (name === '.' || name === '..') return 'dots';
  if (splitName(name).stem.trim() === '') return 'empty';
  if (name.startsWith('.')) return 'hidden';
  REFUSED.lastIndex = 0;
  if (REFUSED.test(name) || name.search(HALVES) >= 0) return 'characters';
  if (isReserved(name)) return 'reserved';
  if (/[ .]$/.test(name) || name.startsWith(' ')) return 'edges';
  return bytesOfName(name) > LONGEST_NAME ? 'long' : null;
}
const TROUBLE_WORDS: Record<NameTrouble, string | ((name: string) => string)> = {
  empty: 'the name is empty',
  dots: 'the name means a folder',
  hidden: 'a name that begins with a dot is hidden',
  characters: 'a name cannot hold / \\ : * ? " < > | or control characters',
  reserved: (name) => `“${splitName(name).stem}” is reserved by some systems`,
  edges: 'a name cannot begin or end with a space or end with a dot',
  long: (name) => `the name takes ${bytesOfName(name)} bytes; ${LONGEST_NAME} is the most`,
};

/** Why a name cannot be given, in words; null where it can. */
export function nameProblem(name: string): string | null {
  const trouble = nameTrouble(name);
  const words = trouble === null ? null : TROUBLE_WORDS[trouble];
  return typeof words === 'function' ? words(name) : words;
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

const ASCII = /^[\u0020-\u007e]*$/;
const LOWER = /^[\u0020-@[-\u007e]*$/;

/** Two names are one where a disk that ignores case or Unicode composition would say so. */
export function nameKey(name: string): string {
  if (LOWER.test(name)) return name;
  return (ASCII.test(name) ? name : name.normalize('NFC')).toLowerCase();
}

/** `LWW-0912-0234.jpg` → `LWW-0912-0234-2.jpg`. */
export function numbered(name: string, number: number): string {
  const { stem, extension } = splitName(name);
  return extension ? `${stem}-${number}.${extension}` : `${stem}-${number}`;
}

/** `LWW-0912-0234.jpg` → `LWW-0912-0234a.jpg`; 27 → `aa`. */
export function lettered(name: string, number: number): string {
  const { stem, extension } = splitName(name);
  const letters = writtenNumber(number, 'letters', 1);
  return extension ? `${stem}${letters}.${extension}` : `${stem}${letters}`;
}

/** The name itself, or with the first number from 2 that is free. */
export function apartFrom(name: string, isTaken: (key: string) => boolean): string {
  if (!isTaken(nameKey(name))) return name;
  for (let number = 2; ; number += 1) {
    const next = numbered(name, number);
    if (!isTaken(nameKey(next))) return next;
  }
}

/** What becomes of the extension: as it is, in lower case, or as the pattern says it. */
export type ExtensionRule = 'keep' | 'lower' | 'pattern';

/** A new name: the filled stem with the old extension. */
export function withExtension(
  stem: string,
  oldName: string,
  rule: ExtensionRule = 'lower',
): string {
  if (rule === 'pattern') return stem;
  const dot = extensionAt(oldName);
  if (dot < 0) return stem;
  const extension = oldName.slice(dot);
  return stem + (rule === 'lower' ? lowered(extension) : extension);
}

/** Extensions in lower case, for very many files have few. */
const known = new Map<string, string>();
const MOST_KNOWN = 1000;
function lowered(extension: string): string {
  let lower = known.get(extension);
  if (lower === undefined) {
    lower = extension.toLowerCase();
    if (known.size < MOST_KNOWN) known.set(extension, lower);
  }
  return lower;
}
